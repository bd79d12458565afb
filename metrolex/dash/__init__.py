"""Pages and faces: what stands where on a display, whether it says the right thing at the right time."""

"""Input stages of displays: what stands between the wire and the number."""

"""The data bus: what a CAN description lists, which signal suits which channel, whether the pair is healthy."""

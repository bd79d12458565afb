"""Feeds: what a circuit is, whether it may be tapped, behind which fuse."""

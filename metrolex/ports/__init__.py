"""Places where a sender can go in, compared on evidence."""

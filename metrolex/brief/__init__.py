"""Before anything is bought or touched: what to show and from where, what it needs, what the vehicle is like, what to order."""

"""Pages of the ports: pins and places, flow paths, cards and fluids."""

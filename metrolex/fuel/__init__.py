"""Fuel: the mixture and what a gauge calls it, blends of petrol and ethanol, the tank and its sender."""

"""The plan of the vehicle: zones, the ways between them, and the best path for a lead."""

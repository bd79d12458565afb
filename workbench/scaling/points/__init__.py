"""Operating points: what is there and what stands on the faces, from the cold start to the hot stop."""

"""Features that are made on a face: what is asked for each, its usual numbers, what it bears."""

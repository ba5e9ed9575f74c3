"""What must be drawn so that the printed part has the right size."""

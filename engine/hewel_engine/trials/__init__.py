"""What is printed to learn a machine's own numbers."""

"""Arms that bend: what they bear in the direction the part is printed in, and what would make them hold."""

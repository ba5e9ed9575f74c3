"""A simulated test stand: a program of its own behind an address of this machine, knowing nothing of the product."""

"""What acts on a part and what holds it: regions of the surface, load cases, equilibrium."""

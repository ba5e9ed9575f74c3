"""Build directions: the sweep over the sphere, the candidates, their ranking."""

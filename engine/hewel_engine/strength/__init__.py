"""Stress of a part under its loads, and what the layers of any build direction make of it."""

"""Walls: how thick the part is everywhere, and what the nozzle makes of that. Lengths mm, areas mm²."""

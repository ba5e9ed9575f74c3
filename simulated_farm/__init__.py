"""A small farm of made-up machines, so that the way from a plan to counted parts can be walked without a real one."""

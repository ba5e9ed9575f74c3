"""The command line of the engine: one verb a module-level function, JSON on standard output."""

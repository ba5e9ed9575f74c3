"""Imported once, by the process that every computing process is forked from: what they all need is in memory then."""

from parts.bridge import load_compiled

load_compiled()

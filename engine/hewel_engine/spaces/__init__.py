"""Spaces beside a part that stay free: those that somebody wrote down, and those that are likely to be used."""

"""Mesh files in and out."""

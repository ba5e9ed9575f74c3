"""Facets, sections, rays, frames, bores and flats: plain arrays in, plain arrays out."""

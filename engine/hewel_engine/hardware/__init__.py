"""Steel in a printed part: what a size comes with, its place in the solid, what it carries, what is to be bought."""

"""What a part is, once it has been taken in: the mended solid and its facts."""

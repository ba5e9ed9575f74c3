"""Parts beside each other on a plate: the only room that knows several."""

"""How a part is laid down: the lines of every layer and the time they take."""

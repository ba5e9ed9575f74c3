"""Handing a proven part over: a packet that is the same bytes wherever it is made, and that anybody can check."""

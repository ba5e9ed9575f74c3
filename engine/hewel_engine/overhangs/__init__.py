"""Layer truth: what hangs, what bridges, what begins in mid-air."""

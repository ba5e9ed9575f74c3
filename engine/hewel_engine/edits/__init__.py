"""Edits of the solid: parameters in, closed solid out. Everything in the frame of the standing part (``Pose``), mm."""

"""Sums done by hand, each on a card of its own: what goes in, what comes out, the formula, its source, where it holds.

Nothing here knows a part; nothing heavy is loaded for a card.
"""

"""All cards, by their keys."""

from hewel_engine.reckoning import bolts, fits, pins, samples  # noqa: F401 (each makes its cards)
from hewel_engine.reckoning.card import CARDS

__all__ = ["CARDS"]

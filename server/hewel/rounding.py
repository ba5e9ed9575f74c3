"""Numbers as they are told: to so many significant figures, thousands of them at once."""

import numpy as np


def significant(values: np.ndarray, figures: int) -> np.ndarray:
    """The values to ``figures`` significant figures; what is not finite stays as it is."""
    values = np.asarray(values, float)
    known = np.isfinite(values) & (values != 0)
    power = figures - 1 - np.floor(np.log10(np.abs(np.where(known, values, 1.0))))
    up, down = 10.0 ** np.maximum(power, 0), 10.0 ** np.maximum(-power, 0)  # each exact, as 0.1 is not
    return np.where(known, np.round(values * up / down) * down / up, values)

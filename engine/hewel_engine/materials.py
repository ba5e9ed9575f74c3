"""Generic grades: starting values until the farm's own coupons replace them.

Only the properties that a computation already reads are held here; stresses MPa, shrinkage a plain ratio.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Material:
    key: str
    name: str
    density_g_cm3: float
    shrinkage: float
    adhesion_hot_mpa: float = 0.15
    """Stress that the hot plate holds (starting value, all grades)."""
    origin: str = "assumed"


MATERIALS = {
    m.key: m
    for m in (
        Material("pla", "PLA", 1.24, 0.003),
        Material("petg", "PETG", 1.27, 0.004),
        Material("abs", "ABS", 1.05, 0.008),
        Material("asa", "ASA", 1.07, 0.006),
        Material("pc", "PC", 1.19, 0.006),
        Material("pa", "PA (nylon)", 1.12, 0.015),
        Material("pa_cf", "PA + chopped carbon", 1.17, 0.003),
        Material("tpu", "TPU 95A", 1.21, 0.008),
    )
}

"""How a layer is laid: line widths, layer height, speeds. Starting values, replaced by the machine's record."""

from dataclasses import asdict, dataclass

from hewel_engine.errors import InputError
from hewel_engine.materials import MATERIALS, Material


@dataclass(frozen=True)
class Process:
    """Lengths mm, speeds mm/s, flow mm³/s, times s, angles degrees from the vertical. All assumed values."""

    limit: float = 45.0
    layer: float = 0.2
    width: float = 0.45
    material: str = "petg"
    perimeters: int = 3
    infill: float = 0.2
    top_bottom: int = 4
    outer_speed: float = 60.0
    infill_speed: float = 110.0
    flow_limit: float = 12.0
    travel_share: float = 0.12
    """Time lost to travel and retracting, as a share of the extruding time."""
    layer_change: float = 1.2
    layer_minimum: float = 8.0
    """Cooling: a layer never takes less than this."""
    nozzle_force: float = 2.0
    """Force (N) with which a passing nozzle drags at the top of the part."""
    clean_bridge: float = 10.0
    rough_bridge: float = 20.0

    def __post_init__(self):
        bounds = {
            "limit": (1.0, 89.0),
            "layer": (0.02, 2.0),
            "width": (0.05, 5.0),
            "perimeters": (1, 50),
            "infill": (0.0, 1.0),
            "top_bottom": (0, 100),
        }
        for name, (low, high) in bounds.items():
            value = getattr(self, name)
            if not low <= value <= high:
                raise InputError(
                    "bad_options",
                    f"{name} is {value:g}, outside {low:g} to {high:g}.",
                    f"Give {name} a value from {low:g} to {high:g}.",
                )
        if self.material not in MATERIALS:
            raise InputError(
                "bad_options",
                f"There is no material called {self.material!r}.",
                "Choose one of: " + ", ".join(sorted(MATERIALS)) + ".",
            )

    @property
    def stock(self) -> Material:
        return MATERIALS[self.material]

    def as_dict(self) -> dict:
        return asdict(self)

"""How a layer is laid: line widths, layer height, speeds, limits, on which machine, in which material."""

from dataclasses import asdict, dataclass, field
from math import ceil, pi

from hewel_engine.errors import InputError
from hewel_engine.materials import MATERIALS, Material
from hewel_engine.records import BY_NAME, CAPABILITY, MACHINE, PROFILE, Field, readings

PORTABLE = 45.0
"""Degrees from the vertical that print on any machine."""

GRADES = {
    "portable": "prints on any machine",
    "hidden": "this farm, hidden faces",
    "visible": "this farm, visible faces",
    "typed": "typed",
}
"""Where the overhang limit comes from."""

LIMIT = Field("limit", "overhang limit", "° from vertical", PORTABLE, 1, 89)
_FIELDS = BY_NAME["machine"] | BY_NAME["profile"] | BY_NAME["capability"] | {"limit": LIMIT}
_CALLED = {"bore_lying": "droop"}
"""Fields of records whose number has another name in a process."""
_start = lambda name: _FIELDS[name].start


def layers_of(height: float, layer: float) -> int:
    """Whole layers that are at least ``height`` mm."""
    return ceil(height / layer - 1e-9)


def layers_below(height: float, layer: float) -> int:
    """Layers that are drawn of what ends at ``height`` mm: those whose middle lies below it.

    >>> layers_below(10.0, 0.2), layers_below(0.29, 0.2), layers_below(0.31, 0.2)
    (50, 1, 2)
    """
    return ceil(height / layer - 0.5 - 1e-9)


@dataclass(frozen=True)
class Process:
    """Lengths mm, speeds mm/s, flow mm³/s, times s, angles degrees from the vertical.

    Starting values stand wherever the machine, the profile and the capability record say nothing.
    """

    limit: float = PORTABLE
    layer: float = _start("layer")
    width: float = _start("width")
    """Of the outer line."""
    inner_width: float = _start("inner_width")
    nozzle: float = _start("nozzle")
    rule: str = _start("rule")
    """How lines add up to a wall: overlapping (spacing), side by side (plain), or as wide as the nozzle (nozzle)."""
    variable_lines: bool = _start("variable_lines")
    material: str = "petg"
    perimeters: int = _start("perimeters")
    infill: float = _start("infill")
    top_bottom: int = _start("top_bottom")
    stiffness_power: float = _start("stiffness_power")
    strength_power: float = _start("strength_power")
    outer_speed: float = _start("outer_speed")
    infill_speed: float = _start("infill_speed")
    flow_limit: float = _start("flow_limit")
    acceleration: float = _start("acceleration")
    travel_share: float = _start("travel_share")
    """Time lost to travel and retracting, as a share of the extruding time."""
    layer_change: float = _start("layer_change")
    layer_minimum: float = _start("layer_minimum")
    """Cooling: a layer never takes less than this."""
    travel_speed: float = _start("travel_speed")
    time_factor: float = _start("time_factor")
    """Seconds that lines take on this machine, over what is calculated of them."""
    nozzle_force: float = _start("nozzle_force")
    """Force (N) with which a passing nozzle drags at the top of the part."""
    clean_bridge: float = _start("clean_bridge")
    rough_bridge: float = _start("rough_bridge")
    droop: float = _start("bore_lying")
    """How far (mm) a bridge or the roof of a lying bore hangs below its drawn surface."""
    adhesion_hot: float = _start("adhesion_hot")
    """Stress (MPa) that the hot plate holds."""
    own: dict = field(default_factory=dict)
    """What the material's record says beside its grade: property → reading."""

    def __post_init__(self):
        for name, rule in _FIELDS.items():
            if hasattr(self, name):
                rule.checked(getattr(self, name))
        if self.material not in MATERIALS:
            raise InputError(
                "bad_options",
                f"There is no material called {self.material!r}.",
                "Choose one of: " + ", ".join(sorted(MATERIALS)) + ".",
            )

    @property
    def overlap(self) -> float:
        """mm by which neighbouring lines lie in each other: h(1 − π/4) by the spacing rule, none by the others."""
        return self.layer * (1 - pi / 4) if self.rule == "spacing" else 0.0

    @property
    def spacing(self) -> float:
        """mm between neighbouring lines."""
        return max(self.inner_width - self.overlap, 0.2 * self.inner_width)

    @property
    def shell(self) -> float:
        """mm of all perimeters together."""
        return self.width + (self.perimeters - 1) * self.spacing

    @property
    def held_out(self) -> float:
        """mm that a ledge, slope or round may reach out without support: two lines."""
        return 2 * self.width

    def held_to_flow(self, speed: float) -> float:
        """mm/s: ``speed``, or what the flow limit leaves of it for a line of cross-section h·spacing."""
        return min(speed, self.flow_limit / (self.spacing * self.layer))

    @property
    def outer_flow(self) -> float:
        """mm³/s that outer lines are laid at."""
        return self.held_to_flow(self.outer_speed) * self.layer * self.spacing

    @property
    def stock(self) -> Material:
        return MATERIALS[self.material].with_own(self.own)

    def as_dict(self) -> dict:
        return asdict(self)


MEASURED = (
    "x_t", "x_a", "z_t", "z_s", "e_xy", "e_z", "snap_strain", "insert_factor", "trials_across", "trials_along",
)  # fmt: skip
"""Fields of a capability record that come before the material's."""


def on_the_farm(machine: dict, material: dict, profile: dict, capability: dict, grade: str, typed: dict) -> tuple:
    """The process that a job gets from the farm's records, and the origin of each of its numbers.

    Every record is {field: reading as dict}; ``material`` holds ``grade`` (key of a generic grade) and ``own``
    (its readings). ``typed`` (field → value) is what the job says itself and comes before any record. Returns
    (Process, {name: (origin, record)}), where ``record`` is one of machine, profile, capability, job, portable.
    """
    values: dict = {}
    origins: dict[str, tuple[str, str]] = {}
    for record, fields, own in (
        ("machine", MACHINE, machine),
        ("profile", PROFILE, profile),
        ("capability", CAPABILITY, capability),
    ):
        for name, reading in readings(fields, own).items():
            name = _CALLED.get(name, name)
            if name in Process.__dataclass_fields__:
                values[name] = reading.value
                origins[name] = (reading.origin, record)
    if grade in ("hidden", "visible"):
        reading = readings(CAPABILITY, capability)[f"limit_{grade}"]
        values["limit"], origins["limit"] = reading.value, (reading.origin, "capability")
    else:
        values["limit"], origins["limit"] = PORTABLE, ("handbook", "portable")
    if grade == "portable":  # any machine: what this farm's own can do counts for nothing
        for name in ("clean_bridge", "rough_bridge"):
            values[name], origins[name] = _start(name), ("handbook", "portable")
    if grade == "visible":  # a rough underside is not accepted on a face that is seen
        values["rough_bridge"], origins["rough_bridge"] = values["clean_bridge"], origins["clean_bridge"]
    strengths = {name: capability[name] for name in MEASURED if name in capability}
    for name, value in typed.items():
        values[name], origins[name] = value, ("own", "job")
    values["perimeters"], values["top_bottom"] = int(values["perimeters"]), int(values["top_bottom"])
    process = Process(**values, material=material["grade"], own=material["own"] | strengths)
    return process, origins

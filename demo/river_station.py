"""A workshop that equips river-gauging stations: its people and its parts, made from parameters.

Everything is invented. Each part carries a problem worth finding, told in its ``problem``.
"""

from dataclasses import dataclass, field

import manifold3d as m3
import numpy as np

from demo.jobs import BOARD_CLIP_JOB, BOOM_POST_JOB, LOGGER_BOX_JOB, LOGGER_LID_JOB, SHEAVE_FORK_JOB, STAY_CLEVIS_JOB
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.io.stl import write_stl
from hewel_engine.io.threemf import write_3mf

WORKSHOP = "Alder Reach Gauging Works"
PEOPLE = [
    ("marrow", "Ines", "Marrow", "engineer", "float-and-sluice"),
    ("tolland", "Piet", "Tolland", "technician", "stage-board-nine"),
    ("quill", "Ada", "Quill", "viewer", "low-water-mark"),
]


OTHER_WORKSHOP = "Saltmarsh Tide Tables"
OTHER_PEOPLE = [("fenwick", "Nora", "Fenwick", "engineer", "ebb-before-flood")]
"""A second workshop with a part of its own: neither sees anything of the other."""


@dataclass(frozen=True)
class DemoOrder:
    """So many ``copies`` on a plate, so many good parts, due at the end of a working day so many days ahead."""

    copies: int
    quantity: int
    days: int


ORDERS = {"Board clip": DemoOrder(8, 96, 0), "Rail spacer": DemoOrder(12, 24, 6)}
"""By the name of a part what is ordered of it."""


@dataclass(frozen=True)
class DemoChoice:
    """How it was decided that a part stands, and the process that it was decided for."""

    up: tuple[float, float, float]
    reason: str
    process: dict
    """What the job sets; ``machine`` by its name."""


CHOSEN = {
    "Boom post": DemoChoice(
        (0.0, 0.0, 1.0),
        "its foot lies flat, nothing hangs",
        {"machine": "Weir 220", "material": "petg", "perimeters": 4, "infill": 0.3},
    )
}
"""By the name of a part."""


@dataclass(frozen=True)
class DemoPart:
    name: str
    file_name: str
    problem: str
    data: bytes
    job: dict = field(default_factory=dict)
    """Sections of its job that somebody has written already."""


def box(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> m3.Manifold:
    """A block centred in plan on ``at``, standing on its height."""
    return m3.Manifold.cube((x, y, z), True).translate((at[0], at[1], at[2] + z / 2))


def rod(
    length: float, radius: float, axis: str = "z", at: tuple[float, float, float] = (0, 0, 0), sides: int = 96
) -> m3.Manifold:
    turn = {"x": (0, 90, 0), "y": (90, 0, 0), "z": (0, 0, 0)}[axis]
    return m3.Manifold.cylinder(length, radius, radius, sides, True).rotate(turn).translate(at)


def mast_clevis() -> m3.Manifold:
    """Two ears on a plate, a gusset on one: the pin bore is 12 mm and the ears pull away from the plate."""
    plate = box(64, 44, 10)
    ears = m3.Manifold()
    for x in (-13, 13):
        ears += box(9, 30, 30, (x, 0, 8)) + rod(9, 15, "x", (x, 0, 38))
    gusset = m3.Manifold.extrude(m3.CrossSection([[(0, 0), (12, 0), (0, 22)]]), 8)
    gusset = gusset.rotate((90, 0, 0)).translate((17.5, 4, 10))
    bolts = m3.Manifold()
    for x in (-26, 26):
        for y in (-16, 16):
            bolts += rod(40, 2.75, "z", (x, y, 0))
    return plate + ears + gusset - rod(100, 6, "x", (0, 0, 38)) - bolts


def float_arm() -> m3.Manifold:
    """A long arm with an eye at one end and an upright stop pin at the other."""
    arm = box(190, 14, 8)
    web = box(150, 4, 20, (-10, 0, 0))
    eye = rod(16, 13, "y", (-95, 0, 13)) + box(26, 16, 13, (-95, 0, 0))
    pin = rod(26, 3, "z", (84, 0, 19))
    lug = box(16, 24, 8, (84, 0, 0))
    cup = rod(10, 11, "z", (55, 0, 5))
    return arm + web + eye + pin + lug + cup - rod(40, 5, "y", (-95, 0, 13)) - rod(8, 8, "z", (55, 0, 10))


def logger_lid() -> m3.Manifold:
    """A lid with a skirt, bosses and a hanging catch: whichever way it lies, something begins in mid-air."""
    skin = box(110, 74, 3)
    skirt = box(104, 68, 14) - box(98, 62, 14)
    bosses = m3.Manifold()
    for x in (-42, 42):
        for y in (-24, 24):
            bosses += rod(12, 4.5, "z", (x, y, 6)) - rod(12, 1.7, "z", (x, y, 9))
    catch = box(4, 16, 20, (57, 0, -6)) + m3.Manifold.extrude(m3.CrossSection([[(0, 0), (5, 0), (0, 4)]]), 16).rotate(
        (90, 0, 0)
    ).translate((50.2, 8, -6))
    window = rod(10, 9, "z", (-15, 0, 0)) + box(24, 8, 10, (12, 0, -4))
    return skin + skirt + bosses + catch - window


def logger_box() -> m3.Manifold:
    """The box that the lid closes: as wide inside as the lid's skirt is outside, which no print lets go in."""
    walls = box(112, 76, 40) - box(104, 68, 37, (0, 0, 3))
    posts = m3.Manifold()
    for x in (-42, 42):
        for y in (-24, 24):
            posts += rod(20, 4, "z", (x, y, 13)) - rod(18, 1.25, "z", (x, y, 15))
    return walls + posts - rod(20, 6, "x", (-54, 0, 22))


def cable_saddle() -> m3.Manifold:
    """A half trough with flared mouths and a strap slot: its underside is round and faces the plate."""
    body = rod(60, 20, "x", (0, 0, 20), 192) ^ box(60, 60, 22, (0, 0, 0))
    base = box(60, 24, 5)
    trough = rod(80, 8, "x", (0, 0, 22), 128)
    for x, turn in ((-30, 90), (30, -90)):
        trough += m3.Manifold.cylinder(10, 14, 8, 128).rotate((0, turn, 0)).translate((x, 0, 22))
    slot = box(8, 80, 3.2, (0, 0, 8))
    screws = rod(40, 2.2, "z", (-22, 0, 0)) + rod(40, 2.2, "z", (22, 0, 0))
    return body + base - trough - slot - screws


def sheave_fork() -> m3.Manifold:
    """A fork for a 40 mm sheave: two cheeks joined by a crown, with an axle bore and an eye for the hook."""
    cheeks = m3.Manifold()
    for y in (-15, 15):
        cheeks += box(34, 7, 44, (0, y, 0)) + rod(7, 17, "y", (0, y, 0))
    crown = box(34, 37, 12, (0, 0, 44))
    neck = rod(26, 9, "z", (0, 0, 66)) + rod(14, 13, "y", (0, 0, 82))
    return cheeks + crown + neck - rod(60, 4, "y") - rod(40, 6, "y", (0, 0, 82))


def sluice_handwheel() -> m3.Manifold:
    """A spoked wheel with a round rim and a square bore for the spindle."""
    circle = m3.CrossSection.circle(7, 48).translate((58, 0))
    rim = m3.Manifold.revolve(circle, 160)
    hub = rod(26, 15, "z", (0, 0, 2))
    spokes = m3.Manifold()
    for k in range(5):
        spokes += rod(58, 4.5, "x", (29, 0, 0), 40).rotate((0, 0, 72 * k))
    return rim + hub + spokes - box(11.4, 11.4, 60, (0, 0, -30))


def float_half() -> m3.Manifold:
    """One half of a two-half float: a hollow dome with a flange and six screw holes."""
    outer, inner = m3.Manifold.sphere(45, 128), m3.Manifold.sphere(42.3, 128)
    dome = (outer - inner).trim_by_plane((0, 0, 1), 0)
    flange = rod(4, 56, "z", (0, 0, 2), 128) - rod(10, 42.3, "z", (0, 0, 2), 128)
    holes = m3.Manifold()
    for k in range(6):
        holes += rod(20, 1.8, "z", (50.5, 0, 0), 32).rotate((0, 0, 60 * k))
    return dome + flange - holes


def sounding_pod() -> m3.Manifold:
    """A closed pod for a pressure cell: hollow all through, so no direction is without a ceiling."""
    body, room = box(70, 46, 34), box(60, 36, 24, (0, 0, 5))
    for x in (-38, 38):
        body += rod(34, 8, "z", (x, 0, 17)) - rod(40, 2.5, "z", (x, 0, 17))
    return body - room


def gate_slide() -> m3.Manifold:
    """A slide between two rails that lean over it, printed in place with 0.32 mm of gap normal to the leaning faces."""
    along = lambda outline, length: m3.Manifold.extrude(m3.CrossSection([outline]), length).rotate((90, 0, 0))
    off = 0.32 * 2**0.5
    slide = along([(-10, 0), (10, 0), (6, 4), (6, 8), (-6, 8), (-6, 4)], 14).translate((0, -23, 0))
    rail = [(10 + off, 0), (18, 0), (18, 8), (6 + off, 8), (6 + off, 4)]
    frame = along(rail, 60) + along([(-x, z) for x, z in rail[::-1]], 60)
    for y in (0, -60):
        frame += box(36, 4, 8, (0, y, 0))
    return frame + slide


def stay_clevis() -> m3.Manifold:
    """Two ears on a foot, made by the hundred: the 6 mm pin pulls them away from it, across the layers."""
    ears = m3.Manifold()
    for x in (-7, 7):
        foot = m3.CrossSection([[(-9, 0), (9, 0), (6, 5), (-6, 5)]])
        ears += m3.Manifold.extrude(foot, 5).rotate((90, 0, 90)).translate((x - 2.5, 0, 5))
        ears += box(5, 12, 16, (x, 0, 5)) + rod(5, 6, "x", (x, 0, 21))
    return box(34, 22, 5) + ears - rod(60, 3, "x", (0, 0, 21))


def boom_post() -> m3.Manifold:
    """A post on a foot: the boom's end pulls it sideways, so that its layers part at the root."""
    body = box(64, 44, 12) + box(30, 30, 88, (0, 0, 12))
    wedge = m3.Manifold.extrude(m3.CrossSection([[(0, 0), (10, 0), (0, 10)]]), 30).rotate((90, 0, 0))
    for side in (wedge, wedge.mirror((1, 0, 0))):
        x = 15 if side is wedge else -15
        body += side.translate((x, 15, 12))
    return body - rod(40, 4, "x", (0, 0, 88))


def pivot_bushing() -> m3.Manifold:
    """A flanged bushing, 1.1 mm of wall."""
    return rod(14, 5.1, "z", (0, 0, 7)) + rod(1.6, 8, "z", (0, 0, 0.8)) - rod(60, 4, "z")


def board_clip() -> m3.Manifold:
    """Holds a gauge board to its rail: a C on its side, open to the front."""
    back = box(30, 18, 24)
    return back - box(30, 10, 24, (5, 0, 0)) - rod(40, 2.6, "x", (-12, 0, 12), 32)


def rail_spacer() -> m3.Manifold:
    """Keeps two rails apart: a ring with two flats."""
    return (rod(16, 14, "z", (0, 0, 8)) ^ box(23, 40, 16)) - rod(40, 5.2, "z")


def other_files() -> list[DemoPart]:
    return [part for part in demo_files() if part.name == "Pivot bushing"]


def solid_mesh(solid: m3.Manifold, scale: float = 1.0) -> Mesh:
    out = solid.to_mesh64()
    points = np.asarray(out.vert_properties)[:, :3] * scale
    return Mesh(points, np.asarray(out.tri_verts).astype(np.int32))


def demo_files() -> list[DemoPart]:
    """The files as a customer would send them: three formats, one of them in inches without saying so."""
    return [
        DemoPart(
            "Mast clevis",
            "mast-clevis.3mf",
            "The ears carry the pull of the stay. Upright, every layer crosses that pull; lying, the 12 mm pin bore "
            "loses its round roof.",
            write_3mf(solid_mesh(mast_clevis()), "Mast clevis"),
        ),
        DemoPart(
            "Float arm",
            "float-arm.stl",
            "Long and thin: flat it curls, on end it sways. The stop pin stands across the layers in the obvious "
            "direction.",
            write_stl(solid_mesh(float_arm())),
        ),
        DemoPart(
            "Logger-box lid",
            "logger-box-lid.3mf",
            "The catch hangs below the rim, so the flat side cannot simply lie on the plate, and upside down its hook "
            "begins in mid-air.",
            write_3mf(solid_mesh(logger_lid()), "Logger-box lid"),
            LOGGER_LID_JOB,
        ),
        DemoPart(
            "Logger box",
            "logger-box.3mf",
            "Its opening is drawn just as wide as the lid's skirt: printed, one does not go into the other.",
            write_3mf(solid_mesh(logger_box()), "Logger box"),
            LOGGER_BOX_JOB,
        ),
        DemoPart(
            "Cable saddle",
            "cable-saddle.stl",
            "Sent in inches by a supplier who did not say so. The belly is round towards the plate.",
            write_stl(solid_mesh(cable_saddle(), 1 / 25.4)),
        ),
        DemoPart(
            "Sheave fork",
            "sheave-fork.3mf",
            "Upright, the crown bridges 23 mm between the cheeks, and the hook's eye is gripped across the layers.",
            write_3mf(solid_mesh(sheave_fork()), "Sheave fork"),
            SHEAVE_FORK_JOB,
        ),
        DemoPart(
            "Stay clevis",
            "stay-clevis.stl",
            "By itself it holds; thirty at a time its layers wait too long for each other and it does not.",
            write_stl(solid_mesh(stay_clevis())),
            STAY_CLEVIS_JOB,
        ),
        DemoPart(
            "Sluice handwheel",
            "sluice-handwheel.stl",
            "Rim and spokes are round towards the plate on both sides: whichever face lies down sags.",
            write_stl(solid_mesh(sluice_handwheel())),
        ),
        DemoPart(
            "Float, upper half",
            "float-upper-half.3mf",
            "A dome on its flange closes over a void; on its crown it stands on a point.",
            write_3mf(solid_mesh(float_half()), "Float, upper half"),
        ),
        DemoPart(
            "Sounding pod",
            "sounding-pod.stl",
            "Closed and hollow: it must become two pieces, or carry a plate that is put in.",
            write_stl(solid_mesh(sounding_pod())),
        ),
        DemoPart(
            "Pivot bushing",
            "pivot-bushing.stl",
            "Sent in metres. So small that the layer minimum, not the path, sets its time.",
            write_stl(solid_mesh(pivot_bushing(), 1e-3)),
        ),
        DemoPart(
            "Boom post",
            "boom-post.stl",
            "The boom pulls it sideways and its layers part at the root; four bolts along it hold them together.",
            write_stl(solid_mesh(boom_post())),
            BOOM_POST_JOB,
        ),
        DemoPart(
            "Board clip",
            "board-clip.stl",
            "Ordered in a number that the hands' hours do not allow by the day: longer hours would.",
            write_stl(solid_mesh(board_clip())),
            BOARD_CLIP_JOB,
        ),
        DemoPart(
            "Rail spacer",
            "rail-spacer.stl",
            "Ordered by the dozen, with days to spare.",
            write_stl(solid_mesh(rail_spacer())),
        ),
    ]

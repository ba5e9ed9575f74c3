"""Bricks, the operator, the cycle, what holds and what pulls: against closed forms and against a general solver."""

import numpy as np
import pytest
from scipy.sparse import coo_matrix
from scipy.sparse.linalg import spsolve
from shapes import box, mesh_of, rod, rotation

from hewel_engine.errors import InputError
from hewel_engine.geometry.mesh import Mesh
from hewel_engine.geometry.voxels import filled
from hewel_engine.loads.cases import read_loads
from hewel_engine.strength.bricks import CORNERS, MIDDLE, PAIRS, brick, isotropic, layered, shapes
from hewel_engine.strength.criterion import principal, tensors
from hewel_engine.strength.lattice import lattice_of
from hewel_engine.strength.model import model_of
from hewel_engine.strength.multigrid import Cycle, solved
from hewel_engine.strength.operators import Bricks
from hewel_engine.strength.recovery import at_points, surface_points
from hewel_engine.strength.solution import solve, stresses

E, NU = 2000.0, 0.38


def plane(point, normal):
    return {"plane": {"point": point, "normal": normal}}


def modelled(mesh, size, fixed, *cases, law=None, share=None):
    loads = read_loads({"fixed": fixed, "cases": [{"name": f"c{i}", "loads": c} for i, c in enumerate(cases)]})
    voxels = filled(mesh, size)
    stiffness = voxels.share if share is None else share(voxels)
    mass = voxels.share * size**3 * 1.27e-9
    asked = [(case, 1.0) for case in loads.cases]
    return model_of(
        mesh, None, list(loads.holds), asked, voxels, stiffness, mass, law if law is not None else isotropic(NU), E
    )


# --------------------------------------------------------------------------- the brick


def test_the_laws():
    give = np.linalg.inv(isotropic(0.3))
    assert give[0, 0] == pytest.approx(1) and give[0, 1] == pytest.approx(-0.3) and give[3, 3] == pytest.approx(2.6)
    assert np.allclose(layered(1.0, 0.3, rotation(2)[0]), isotropic(0.3))
    for up in rotation(5):
        pull = np.array([up[a] * up[b] for a, b in PAIRS])
        strain = np.linalg.inv(layered(0.6, 0.35, up)) @ pull
        along = sum(strain[i] * up[a] * up[b] for i, (a, b) in enumerate(PAIRS))
        assert along == pytest.approx(1 / 0.6)
        assert np.linalg.eigvalsh(layered(0.6, 0.35, up)).min() > 0


@pytest.mark.parametrize("plain", [True, False])
def test_a_brick_passes_the_patch_test(plain):
    law = layered(0.7, 0.35, rotation(1)[0])
    k = brick(law, plain)
    values = np.linalg.eigvalsh(k)
    assert (np.abs(values[:6]) < 1e-12).all() and values[6] > 1e-3  # six motions, nothing else
    slope = rotation(3) * 0.01
    u = (CORNERS @ slope.T).ravel()
    strain = MIDDLE @ u
    assert np.allclose(strain[:3], np.diag(slope)) and strain[3] == pytest.approx(slope[0, 1] + slope[1, 0])
    assert k @ u == pytest.approx(MIDDLE.T @ law @ strain, abs=1e-14)  # the nodal forces of an even stress
    assert u @ k @ u == pytest.approx(strain @ law @ strain)


def test_shapes_keep_places_outside_too():
    places = np.random.default_rng(0).uniform(-1, 2, (50, 3))
    assert np.allclose(shapes(places) @ CORNERS, places) and np.allclose(shapes(places).sum(axis=1), 1)


# --------------------------------------------------------------------------- the operator and the cycle


def assembled(bricks: Bricks):
    lattice, n = bricks.lattice, len(bricks.lattice.nodes)
    blocks = bricks.stiffness[:, None, None] * bricks.brick
    np.add.at(blocks, bricks.owners, bricks.own)
    rows = (3 * lattice.corners[:, :, None] + np.arange(3)).reshape(-1, 24)
    at = np.broadcast_to(rows[:, :, None], blocks.shape), np.broadcast_to(rows[:, None, :], blocks.shape)
    return coo_matrix((blocks.ravel(), (at[0].ravel(), at[1].ravel())), shape=(3 * n, 3 * n)).tocsr()


def sponge(seed, shape=(9, 8, 11)) -> Bricks:
    """A random body of voxels with random stiffness, held by springs at random cells."""
    rng = np.random.default_rng(seed)
    active = rng.random(shape) < 0.8
    lattice = lattice_of(active)
    owners = np.flatnonzero(lattice.cells[:, 0] == 0)
    root = rng.normal(size=(len(owners), 24, 6))
    return Bricks(
        lattice,
        brick(layered(0.8, 0.35, rotation(seed)[0])),
        rng.uniform(0.05, 1, len(lattice)),
        root @ root.transpose(0, 2, 1),
        owners,
    )


@pytest.mark.parametrize("seed", range(4))
def test_the_operator_is_the_assembled_matrix(seed):
    bricks = sponge(seed)
    u = np.random.default_rng(seed).normal(size=(len(bricks.lattice.nodes), 3))
    matrix = assembled(bricks).toarray()
    want = (matrix @ u.ravel()).reshape(-1, 3)
    assert np.allclose(bricks.times(u, np.empty_like(u)), want, atol=1e-11)
    single = bricks.as_type(np.float32)
    got = single.times(u.astype(np.float32), np.empty(u.shape, np.float32))
    assert np.abs(got - want).max() < 1e-5 * np.abs(want).max()
    diagonal = np.stack([matrix[3 * i : 3 * i + 3, 3 * i : 3 * i + 3] for i in range(len(u))])
    assert np.allclose(bricks.diagonal(), diagonal)


@pytest.mark.parametrize("seed", range(3))
def test_the_solution_is_a_direct_solvers(seed, monkeypatch):
    monkeypatch.setattr("hewel_engine.strength.multigrid.COARSEST", 60)
    bricks = sponge(seed, (12, 14, 10))
    force = np.random.default_rng(seed).normal(size=(len(bricks.lattice.nodes), 3))
    cycle = Cycle(bricks)
    assert len(cycle.levels) >= 2
    found = solved(bricks, cycle, force, accuracy=1e-9, most=400)
    want = spsolve(assembled(bricks).tocsc(), force.ravel()).reshape(-1, 3)
    assert found.residual <= 1e-9 and np.abs(found.displacement - want).max() < 1e-6 * np.abs(want).max()


def rounds_of(share, stiffness=1.0) -> int:
    """Rounds to a millionth for a body of voxels held at its low x end and pulled askew at the other."""
    lattice = lattice_of(share)
    owners = np.flatnonzero(lattice.cells[:, 2] == 0)
    end = np.array([[0, a, b] for a in (0.2, 0.8) for b in (0.2, 0.8)])
    ways = np.kron(shapes(end)[:, None], np.eye(3))
    bed = 30 / 4 * np.einsum("pia,pib->ab", ways, ways)
    bricks = Bricks(
        lattice, brick(isotropic(0.35)), np.full(len(lattice), stiffness), np.repeat(bed[None], len(owners), 0), owners
    )
    force = np.zeros((len(lattice.nodes), 3))
    force[lattice.nodes[:, 2] == lattice.nodes[:, 2].max()] = [0.3, 1, -0.5]
    found = solved(bricks, Cycle(bricks), force)
    assert found.residual <= 1e-6
    return found.rounds


def tube(across, wall, long):
    y = np.arange(across) + 0.5 - across / 2
    r = np.hypot(y[:, None], y)
    return np.repeat(((r < across / 2) & (r > across / 2 - wall))[:, :, None], long, axis=2)


def test_rounds_stay_few():
    assert rounds_of(np.ones((16, 16, 60), bool)) <= 15
    assert rounds_of(np.ones((32, 32, 50), bool)) <= 15
    assert rounds_of(np.ones((2, 90, 90), bool)) <= 40  # a plate of two voxels
    assert rounds_of(np.ones((3, 40, 160), bool)) <= 40
    assert rounds_of(tube(40, 2, 120)) <= 40


# --------------------------------------------------------------------------- a whole part


def test_a_bar_bends_as_timoshenko_says():
    """Two voxels through the thickness are enough; and on one, the plain brick would be half as soft."""
    mesh = mesh_of(box(100, 10, 10))
    fixed, load = [{"on": plane([-50, 0, 0], [-1, 0, 0])}], {"on": plane([50, 0, 0], [1, 0, 0]), "force_n": [0, 0, -10]}
    second, shear = 10**4 / 12, E / (2 * (1 + NU))
    want = 10 * 100**3 / (3 * E * second) + 10 * 100 / (5 / 6 * shear * 100)
    for size in (10.0, 5.0, 2.5):
        model = modelled(mesh, size, fixed, [load])
        (found,) = solve(model)
        tip = model.lattice.nodes[:, 2] == model.lattice.nodes[:, 2].max()
        assert -found.displacement[tip, 2].mean() == pytest.approx(want, rel=0.03 if size == 10 else 0.02)
        assert found.answers.sum(axis=0) == pytest.approx([0, 0, 10], abs=1e-4)
        moment = np.cross(model.footing.points - [-50, 0, 0], found.answers).sum(axis=0)
        assert moment == pytest.approx([0, -1000, 0], abs=0.05)


def test_a_bar_beside_the_grid_is_as_stiff():
    """Cut voxels count by their share: a section of 6.4 × 9.1 mm in voxels of 2."""
    mesh = mesh_of(box(80, 6.4, 9.1))
    model = modelled(
        mesh, 2.0, [{"on": plane([-40, 0, 0], [-1, 0, 0])}],
        [{"on": plane([40, 0, 0], [1, 0, 0]), "force_n": [100, 0, 0]}],
    )  # fmt: skip
    (found,) = solve(model)
    tip = model.lattice.nodes[:, 2] == model.lattice.nodes[:, 2].max() - 1
    length = (model.grid.origin[0] + 2.0 * (model.lattice.nodes[:, 2].max() - 1)) + 40
    want = 100 * length / (E * 6.4 * 9.1)
    assert found.displacement[tip, 0].mean() == pytest.approx(want, rel=0.02)


def test_own_weight_hangs():
    mesh = mesh_of(box(10, 10, 60))
    model = modelled(mesh, 2.0, [{"on": plane([0, 0, 30], [0, 0, 1])}], [{"acceleration_g": [0, 0, -1]}])
    (found,) = solve(model)
    weight = 6000 * 1.27e-6 * 9.80665
    assert found.answers.sum(axis=0) == pytest.approx([0, 0, weight], abs=1e-6)
    low = model.lattice.nodes[:, 0] == 0
    assert -found.displacement[low, 2].mean() == pytest.approx(weight * 60 / (2 * E * 100), rel=0.02)


def test_a_pin_turns_and_a_slide_slides():
    """A lug on a pinned bore, kept from turning by a face that slides: answers as statics says."""
    mesh = mesh_of(box(60, 20, 10) - rod(10, 5, 48).translate((-20, 0, 0)))
    bore = {"cylinder": {"point": [-20, 0, 0], "axis": [0, 0, 1], "radius": 5}}
    model = modelled(
        mesh, 1.0,
        [{"on": bore, "how": "pinned"}, {"on": plane([0, -10, 0], [0, -1, 0]), "how": "sliding"},
         {"on": plane([0, 0, -5], [0, 0, -1]), "how": "sliding"}],
        [{"on": plane([30, 0, 0], [1, 0, 0]), "force_n": [50, 0, 0]}],
    )  # fmt: skip
    (found,) = solve(model)
    foot = model.footing
    held = [found.answers[foot.hold == i].sum(axis=0) for i in range(3)]
    assert held[0][0] == pytest.approx(-50, abs=0.01) and abs(held[1][0]) < 1e-9  # only the pin holds along x
    radial = foot.points[foot.hold == 0] - [-20, 0, 0]
    along = np.cross([0, 0, 1], radial)
    assert np.abs((found.answers[foot.hold == 0] * along).sum(axis=1)).max() < 1e-9  # and it cannot hold a turn


@pytest.mark.parametrize("turn", [np.eye(3), rotation(4), rotation(15)])
def test_what_hangs_on_a_pin_by_its_weight_rests(turn):
    """Nothing holds the turn about the pin, and nothing drives it; the voxels, cut askew, must not either."""
    solid = box(24, 8, 60) - rod(20, 5, 32, axis="y").translate((0, 0, 24))
    upright = mesh_of(solid)
    mesh = Mesh(upright.vertices @ turn.T, upright.faces)
    bore = {"cylinder": {"point": list(turn @ [0, 0, 24]), "axis": list(turn @ [0, 1, 0]), "radius": 5}}
    weight = {"acceleration_g": list(turn @ [0, 0, -1])}
    for size in (2.0, 1.3):
        model = modelled(mesh, size, [{"on": bore, "how": "pinned"}], [weight])
        (found,) = solve(model)
        assert found.rounds < 25 and model.free.motion.shape[2] == 2  # the turn, and the run along the pin
        result = found.answers.sum(axis=0)
        assert result == pytest.approx(-found.loading.forces.sum(axis=0), rel=1e-3, abs=1e-4)
        # Stretched by its weight below the pin, and nowhere else: no turn is left in it.
        assert np.linalg.norm(found.displacement, axis=1).max() < 0.01


def test_a_pressed_face_lets_go():
    """A block on the table, tipped by a side force at its top: it stands on its far edge, and nothing pulls."""
    mesh = mesh_of(box(20, 20, 20))
    model = modelled(
        mesh, 2.0,
        [{"on": plane([0, 0, -10], [0, 0, -1]), "how": "pressed"},
         {"on": plane([0, 0, -10], [0, 0, -1]), "hold": "xy"}],
        [{"on": plane([0, 0, 10], [0, 0, 1]), "force_n": [20, 0, -100]}],
    )  # fmt: skip
    (found,) = solve(model)
    foot = model.footing
    up = found.answers[:, 2] * foot.pressed
    assert up.min() >= -1e-9 and up.sum() == pytest.approx(100, rel=1e-3)
    middle = (foot.points[:, 0] * up).sum() / up.sum()
    assert middle == pytest.approx(20 * 20 / 100, abs=0.05)  # the answer stands where the moment wants it
    assert up[foot.pressed & (foot.points[:, 0] < -9.4)].sum() < 0.01 * up.sum()
    whole = modelled(
        mesh,
        2.0,
        [{"on": plane([0, 0, -10], [0, 0, -1])}],
        [{"on": plane([0, 0, 10], [0, 0, 1]), "force_n": [20, 0, -100]}],
    )
    assert solve(whole)[0].answers[:, 2].min() < -0.005  # glued down it would pull


def test_pieces_that_nothing_holds():
    near, far = box(10, 10, 10), box(6, 6, 6).translate((20, 0, 0))
    mesh = mesh_of(near + far)
    fixed = [{"on": plane([-5, 0, 0], [-1, 0, 0])}]
    on_near, on_far = (
        {"on": plane([x, 0, 0], [1, 0, 0]), "force_n": [0, 0, -5]} for x in (5, 23)
    )  # fmt: skip
    model = modelled(mesh, 1.0, fixed, [on_near])
    assert [n["code"] for n in model.notes] == ["loose_pieces"] and len(model.lattice) == 1000
    with pytest.raises(InputError, match="nothing holds") as error:
        modelled(mesh, 1.0, fixed, [on_far])
    assert error.value.code == "bad_loads" and "c0" in error.value.message


def test_a_load_on_a_sliver_is_named():
    fin = box(10, 10, 10) + box(0.02, 8, 8).translate((0, 0, 8.9))
    with pytest.raises(InputError, match="sliver"):
        modelled(
            mesh_of(fin), 1.0, [{"on": plane([0, 0, -5], [0, 0, -1])}],
            [{"on": {"box": [[-1, -5, 10], [1, 5, 13]]}, "force_n": [1, 0, 0]}],
        )  # fmt: skip


# --------------------------------------------------------------------------- stress on the surface


@pytest.mark.parametrize("turn", [np.eye(3), rotation(8), rotation(21)])
def test_an_even_pull_is_even_everywhere_in_any_pose(turn):
    bar = mesh_of(box(40, 10, 10))
    mesh = Mesh(bar.vertices @ turn.T, bar.faces)
    low, high, axis = turn @ [-20, 0, 0], turn @ [20, 0, 0], turn[:, 0]
    model = modelled(
        mesh, 1.0, [{"on": plane(low.tolist(), (-axis).tolist())}],
        [{"on": plane(high.tolist(), axis.tolist()), "force_n": (1000 * axis).tolist()}],
    )  # fmt: skip
    (found,) = solve(model)
    points = surface_points(mesh, model, 0.45, 1.0, np.zeros(len(model.lattice), bool))
    along = ((points.places @ axis) > -5) & ((points.places @ axis) < 17)
    stress = at_points(model, points, stresses(model, found))[along]
    pull = np.einsum("kij,i,j->k", tensors(stress), axis, axis)
    across = principal(stress)[:, 0]
    assert pull.max() < 10.4 and np.percentile(pull, 5) > 9.3 and np.median(pull) == pytest.approx(10, rel=0.01)
    assert np.percentile(np.abs(across), 95) < 0.6


def test_a_plate_with_a_hole_peaks_as_it_should():
    """Heywood: K_t,net = 2 + (1 − D/W)³ for a finite plate in tension."""
    wide, bore, thick = 60.0, 12.0, 4.0
    mesh = mesh_of(box(100, wide, thick) - rod(20, bore / 2, 128))
    want = (2 + (1 - bore / wide) ** 3) * 1000 / ((wide - bore) * thick)
    model = modelled(
        mesh, bore / 16, [{"on": plane([-50, 0, 0], [-1, 0, 0])}],
        [{"on": plane([50, 0, 0], [1, 0, 0]), "force_n": [1000, 0, 0]}],
    )  # fmt: skip
    (found,) = solve(model)
    points = surface_points(mesh, model, 0.45, 1.0, np.zeros(len(model.lattice), bool))
    stress = at_points(model, points, stresses(model, found))
    near = np.hypot(*points.places[:, :2].T) < bore
    assert stress[near, 0].max() == pytest.approx(want, rel=0.06)

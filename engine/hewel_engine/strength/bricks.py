"""The eight-node brick with incompatible modes, and the elastic laws it is made of.

A voxel of side 1 mm and a modulus of 1 MPa; a real one is E·size times as stiff. Stress and strain are written
[xx, yy, zz, xy, yz, zx], shear strains as γ = 2ε. Corner a of a voxel stands at x = a & 1, y = a >> 1 & 1, z = a >> 2.

Source: Wilson, Taylor, Doherty, Ghaboussi (1973), incompatible displacement models; on a voxel they pass the patch
test as they stand, since its Jacobian is constant. Valid for small strains.
"""

import numpy as np

from hewel_engine.geometry.mesh import Array

CORNERS = np.array([[a & 1, a >> 1 & 1, a >> 2] for a in range(8)])
PAIRS = ((0, 0), (1, 1), (2, 2), (0, 1), (1, 2), (2, 0))
"""Places in the tensor of [xx, yy, zz, xy, yz, zx]."""


def isotropic(poisson: float) -> Array:
    """(6, 6) stress from strain for E = 1."""
    v = poisson
    lame, shear = v / ((1 + v) * (1 - 2 * v)), 1 / (2 * (1 + v))
    out = np.zeros((6, 6))
    out[:3, :3] = lame
    out[range(3), range(3)] += 2 * shear
    out[range(3, 6), range(3, 6)] = shear
    return out


def layered(ratio: float, poisson: float, up: Array) -> Array:
    """(6, 6) stress from strain of a layered body for E = 1 in the layers and ``ratio`` = E_z/E_xy across them.

    Transversely isotropic about ``up`` (3,), G_z = E_z/(2(1 + ν)), one ν for all pairs: strain across from stress
    along is −ν/E_xy.
    """
    v = poisson
    give = np.zeros((6, 6))
    give[:3, :3] = -v
    give[[0, 1, 2], [0, 1, 2]] = 1, 1, 1 / ratio
    give[3, 3] = 2 * (1 + v)
    give[4, 4] = give[5, 5] = 2 * (1 + v) / ratio
    local = np.linalg.inv(give)
    z = np.asarray(up, float) / np.linalg.norm(up)
    x = np.cross(z, np.eye(3)[int(np.argmin(np.abs(z)))])
    x /= np.linalg.norm(x)
    turn = _strain_turn(np.array([x, np.cross(z, x), z]))
    return turn.T @ local @ turn


def _strain_turn(rows: Array) -> Array:
    """(6, 6): strains in the frame with these axes from strains in the part's frame."""
    out = np.zeros((6, 6))
    for i, (a, b) in enumerate(PAIRS):
        for j, (c, d) in enumerate(PAIRS):
            whole = rows[a, c] * rows[b, d] + rows[a, d] * rows[b, c] * (c != d)
            out[i, j] = whole * (1 if a == b else 2) / (1 if c == d else 2)
    return out


def _strains(slopes: Array) -> Array:
    """(6, 3n) from the derivatives (n, 3) of n shape functions."""
    n = len(slopes)
    out = np.zeros((6, n, 3))
    for row, (a, b) in enumerate(PAIRS):
        out[row, :, a] += slopes[:, b] if a != b else slopes[:, a]
        if a != b:
            out[row, :, b] += slopes[:, a]
    return out.reshape(6, 3 * n)


def shapes(place: Array) -> Array:
    """(…, 8) trilinear shape functions at ``place`` (…, 3) in the voxel, 0 to 1 (they stay linear outside it)."""
    p = np.asarray(place)[..., None, :]
    return np.where(CORNERS == 1, p, 1 - p).prod(axis=-1)


def slopes(place: Array) -> Array:
    """(8, 3) derivatives of the shape functions at ``place`` (3,)."""
    factor = np.where(CORNERS == 1, place, 1 - np.asarray(place))
    sign = np.where(CORNERS == 1, 1.0, -1.0)
    return np.stack([sign[:, d] * np.delete(factor, d, axis=1).prod(axis=1) for d in range(3)], axis=1)


MIDDLE = _strains(slopes(np.full(3, 0.5)))
"""(6, 24): strains at the middle of a voxel of side 1; the incompatible modes have none there."""


def brick(law: Array, plain: bool = False) -> Array:
    """(24, 24) stiffness of the voxel; ``plain``: without the incompatible modes.

    The modes 1 − ξ² of each direction and component are condensed: K_uu − K_ua K_aa⁻¹ K_au.
    """
    gauss = 0.5 + np.array([-1, 1]) / np.sqrt(12)
    whole = np.zeros((33, 33))
    for place in np.array(np.meshgrid(gauss, gauss, gauss)).reshape(3, 8).T:
        bubble = np.diag(-2 * (2 * place - 1)) * 2  # d(1 − ξ²)/dx with ξ = 2x − 1
        b = np.hstack([_strains(slopes(place)), _strains(bubble)])
        whole += b.T @ law @ b / 8
    u, a = slice(0, 24), slice(24, 33)
    out = whole[u, u]
    if not plain:
        out = out - whole[u, a] @ np.linalg.solve(whole[a, a], whole[a, u])
    return (out + out.T) / 2

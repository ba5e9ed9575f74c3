"""Seconds to print, from the section integrals of every layer."""

import numpy as np

from hewel_engine.geometry.mesh import Array
from hewel_engine.geometry.sections import LayerStack
from hewel_engine.processes import Process


def exposed(stack: LayerStack) -> tuple[Array, Array]:
    """Plan area (mm²) of the faces that look up and of those that look down within each layer, (count,) each."""
    d = stack.mesh.normals @ stack.up
    plan = stack.mesh.areas * d
    z = stack.points[stack.mesh.faces][:, :, 2]
    low = np.clip((z.min(axis=1) / stack.pitch).astype(int), 0, stack.count - 1)
    high = np.clip(np.ceil(z.max(axis=1) / stack.pitch).astype(int), low + 1, stack.count)
    rate = np.zeros((2, stack.count + 1))
    each = np.abs(plan) / (high - low)
    for side, rows in enumerate((plan > 0, plan < 0)):
        np.add.at(rate[side], low[rows], each[rows])
        np.add.at(rate[side], high[rows], -each[rows])
    up, down = np.cumsum(rate, axis=1)[:, : stack.count]
    return np.maximum(up, 0), np.maximum(down, 0)


def layer_seconds(stack: LayerStack, process: Process) -> Array:
    """(count,) s: perimeters, solid skins and sparse filling of each layer at their speeds, with the layer minimum.

    Line lengths are area over line width; a skin is ``top_bottom`` layers below a face that looks up or above one
    that looks down. Speeds are held to the volumetric flow limit.
    """
    area, outline = np.maximum(stack.integrals[:, 0], 0), stack.integrals[:, 6]
    w, h = process.width, process.layer
    top_speed = process.flow_limit / (w * h)
    shell_speed, fill_speed = min(process.outer_speed, top_speed), min(process.infill_speed, top_speed)
    shell = np.minimum(outline * process.perimeters * w, area)
    core = area - shell
    up, down = exposed(stack)
    window = np.ones(max(process.top_bottom, 1))
    skins = np.convolve(up[::-1], window)[: stack.count][::-1] + np.convolve(down, window)[: stack.count]
    solid = np.minimum(core, skins) if process.top_bottom else np.zeros_like(core)
    sparse = (core - solid) * process.infill
    seconds = shell / w / shell_speed + (solid + sparse) / w / fill_speed
    return np.maximum(seconds * (1 + process.travel_share), process.layer_minimum) + process.layer_change


def print_seconds(stack: LayerStack, process: Process) -> float:
    return float(layer_seconds(stack, process).sum())

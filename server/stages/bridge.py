"""What every stage needs of the engine: its version, and when two directions are one."""

from hewel_engine import ENGINE_VERSION as ENGINE_VERSION
from hewel_engine.geometry.frames import same_direction as same_direction

"""A job as it would be printed by anybody: generic settings in place of the farm's own, the same material grade."""

from functools import cached_property

from release import bridge
from studies.view import DirectedJob


class GenericJob(DirectedJob):
    """The job of a part under generic settings. What is calculated for it is kept beside what is calculated for the job
    itself, each under the digest of what it rests on.
    """

    @cached_property
    def farm_process(self) -> dict:
        own = self.farm.process(self.job["process"])
        numbers = bridge.generic(own["numbers"])
        return own | {"numbers": numbers, "origins": {}}

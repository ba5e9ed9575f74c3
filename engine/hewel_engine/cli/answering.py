"""What every verb prints, and how it ends. Loads nothing that computes."""

import json
import sys
import time
from collections.abc import Callable

from hewel_engine import CONTRACT
from hewel_engine.errors import InputError


def answered(work: Callable[[], dict]) -> int:
    """Prints one JSON object: what ``work`` gives, or what is wrong. 0 done, 2 the input cannot be used, 1 a defect of
    ours.
    """
    started = time.monotonic()
    try:
        answer = {"contract": CONTRACT, **work(), "seconds": round(time.monotonic() - started, 4)}
        print(json.dumps(answer, allow_nan=False))
        return 0
    except InputError as error:
        print(json.dumps({"contract": CONTRACT, "error": error.as_dict()}))
        return 2
    except Exception as error:  # the last line of defence: a defect of ours is reported, never a traceback
        print(json.dumps({"contract": CONTRACT, "error": {"code": "defect", "message": type(error).__name__}}))
        print(f"hewel engine: a defect of ours: {type(error).__name__}: {error}", file=sys.stderr)
        return 1

"""Names for what something depends on: the same content has the same name."""

import hashlib
import json


def digest(*content) -> str:
    """Of plain values, lists and mappings; the order of a mapping's keys does not matter."""
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()

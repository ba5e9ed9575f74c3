"""Prints the API's schema: ``python -m hewel.schema > web/openapi.json``."""

import json
import os

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "hewel.settings")


def schema() -> str:
    django.setup()
    from hewel.api import api

    return json.dumps(api.get_openapi_schema(path_prefix="/api/"), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    print(schema(), end="")

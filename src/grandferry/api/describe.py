"""``python -m grandferry.api.describe``: the API's OpenAPI description on stdout, from which the front end's types are
made."""

from __future__ import annotations

import json
import sys

from .app import make_app

if __name__ == "__main__":
    json.dump(make_app(8700).openapi(), sys.stdout, indent=1, sort_keys=True)

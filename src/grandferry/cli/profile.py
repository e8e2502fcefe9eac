"""``grandferry profile``: how a folder of Markdown is written, to begin one of your own from."""

from __future__ import annotations

from typing import Annotated

import typer
import yaml

from grandferry.core.errors import FerryError
from grandferry.core.land.profile import PROFILES

from .common import guarded


@guarded
def command(name: Annotated[str, typer.Argument(help=f"one of: {', '.join(PROFILES)}")]) -> None:
    """Print a ready profile as YAML. A changed copy is given to land or draft with --profile FILE."""
    if name not in PROFILES:
        raise FerryError(f"There is no profile “{name}”.", f"One of: {', '.join(PROFILES)}.")
    print(yaml.safe_dump(PROFILES[name].model_dump(mode="json"), sort_keys=False, allow_unicode=True), end="")

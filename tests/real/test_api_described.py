"""The API does what its description says: requests made from the description alone, over a crossing that has been through
every stage, by a program that looks for answers the description does not know."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import pytest

from tests.demo import running_demo
from tests.servers import served_api

pytestmark = [pytest.mark.slow, pytest.mark.timeout(900)]
CHECKS = """not_a_server_error status_code_conformance content_type_conformance response_headers_conformance
response_schema_conformance unsupported_method allow_header_conformance""".split()


def test_every_operation_answers_as_described(tmp_path: Path) -> None:
    with running_demo(tmp_path), served_api() as base:
        command = [str(Path(sys.executable).with_name("schemathesis")), "run", f"{base}/api/openapi.json"]
        command += ["--url", base, "-H", f"Origin: {base}", "-c", ",".join(CHECKS), "--seed", "7"]
        command += ["--phases", "coverage,fuzzing", "-n", "12", "--suppress-health-check", "all"]
        command += ["--continue-on-failure", "--request-timeout", "30", "--max-time", "170", "--no-color"]
        done = subprocess.run(command, capture_output=True, text=True, cwd=tmp_path, check=False, timeout=800)
    assert re.search(r"Operations: +[1-9]\d* selected", done.stdout), done.stdout + done.stderr
    assert done.returncode == 0, done.stdout[-20_000:] + done.stderr[-2000:]

"""What the project's own files promise."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
DOCS = [ROOT / "README.md", *sorted((ROOT / "docs").rglob("*.md"))]
SET_UP = [
    *(ROOT / "requirements").iterdir(),
    *(ROOT / "bin").iterdir(),
    ROOT / "package.json",
    ROOT / "pyproject.toml",
    ROOT / "tools" / "refresh-vendor",
]


@pytest.mark.parametrize("page", DOCS, ids=lambda p: p.name)
def test_every_link_of_the_documents_leads_somewhere(page):
    for target in re.findall(r"\]\(([^)#]+)[^)]*\)", page.read_text()):
        assert (page.parent / target).exists(), target


@pytest.mark.parametrize("path", SET_UP, ids=lambda p: p.name)
def test_no_set_up_file_names_a_host(path):
    hosts = re.findall(r"https?://([\w.-]+)", path.read_text())
    assert set(hosts) <= {"127.0.0.1"}


@pytest.mark.parametrize("name", ["base", "dev"])
def test_every_python_package_is_pinned_with_a_hash(name):
    for block in re.split(r"\n(?=\S)", (ROOT / "requirements" / f"{name}.txt").read_text()):
        if re.match(r"[a-z0-9]", block):
            assert re.match(r"\S+==\S+ \\\n", block)
            assert "--hash=sha256:" in block


@pytest.mark.parametrize("table", sorted((ROOT / "metrolex" / "data").glob("*.toml")), ids=lambda p: p.stem)
def test_every_table_names_its_source(table):
    text = table.read_text()
    assert tomllib.loads(text)
    assert re.search(r"^# .*(ISO|ASTM|IEC|NIST|ommon practice|made up for this program)", text, re.MULTILINE)


@pytest.mark.thorough
def test_the_command_runs_from_anywhere(tmp_path):
    example = subprocess.run(
        [ROOT / "bin" / "metrolex", "wire", "--example"], capture_output=True, cwd=tmp_path, check=True
    )
    answer = subprocess.run(
        [ROOT / "bin" / "metrolex", "wire"],
        input=example.stdout,
        capture_output=True,
        cwd=tmp_path,
        check=True,
    )
    assert b'"size"' in answer.stdout


@pytest.mark.parametrize("package", ["metrolex", "workbench", "metrolex.cli", "tests"])
def test_the_linear_algebra_keeps_to_one_thread(package):
    """By the threads the system counts once numpy has worked, whatever package comes first."""
    code = f"import {package}, numpy, pathlib; numpy.linalg.inv(numpy.eye(300)); print(pathlib.Path('/proc/self/status').read_text())"
    bare = {name: value for name, value in os.environ.items() if not name.endswith("_NUM_THREADS")}
    answer = subprocess.run(
        [sys.executable, "-c", code], cwd=ROOT, env=bare, capture_output=True, text=True, check=True
    )
    assert re.search(r"^Threads:\s+1$", answer.stdout, re.MULTILINE)

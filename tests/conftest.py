"""Shared fixtures: the demo's files, its corpus, and folders of their own for everything the application writes."""

from __future__ import annotations

import json
import os
import shutil
from pathlib import Path

import pytest
from hypothesis import settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
settings.register_profile("umber", deadline=None)  # what is slow on a busy machine is not wrong
settings.load_profile("umber")


def pytest_addoption(parser):
    parser.addoption("--long", action="store_true", help="wander through the window for ten minutes, not seconds")


def pytest_collection_modifyitems(config, items):
    """The gate looks at half the examples that a property names; ``--long`` at all of them."""
    if config.getoption("--long"):
        return
    for item in items:
        own = getattr(getattr(item, "obj", None), "_hypothesis_internal_use_settings", None)
        if own is not None and own.max_examples > 20:
            item.obj._hypothesis_internal_use_settings = settings(own, max_examples=max(20, own.max_examples // 2))


@pytest.fixture(scope="session")
def results_kept(tmp_path_factory):
    """One folder of derived results for all tests, as on a user's machine: what one has computed the next finds."""
    return tmp_path_factory.mktemp("cache")


@pytest.fixture(autouse=True)
def own_folders(tmp_path_factory, monkeypatch, results_kept):
    home = tmp_path_factory.mktemp("home")
    monkeypatch.setenv("XDG_CACHE_HOME", str(results_kept))
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(name, str(home / name))


@pytest.fixture(scope="session")
def demo(tmp_path_factory) -> Path:
    from umber_knot.demo import write_demo

    folder = tmp_path_factory.mktemp("brackwater")
    write_demo(folder)
    return folder


@pytest.fixture(scope="session")
def truth(demo):
    return json.loads((demo / "truth.json").read_text(encoding="utf-8"))


@pytest.fixture(scope="session")
def corpus(demo):
    from umber_knot.demo import SOURCES
    from umber_knot.gather.read import read_corpus

    return read_corpus([demo / name for name in SOURCES])


@pytest.fixture(scope="session")
def study_made(demo, tmp_path_factory) -> Path:
    from umber_knot.corpus.study import Study
    from umber_knot.demo import RECIPE, SOURCES
    from umber_knot.gather.read import read_file
    from umber_knot.lineage.recipe import parse_recipe

    path = tmp_path_factory.mktemp("study") / "Brackwater.umber"
    with Study.create(path) as study:
        study.set_recipe("the demo's recipe", parse_recipe(RECIPE).toml())
        study.add_sources([read_file(demo / name) for name in SOURCES])
    return path


@pytest.fixture
def study_path(study_made, tmp_path) -> Path:
    """The demo study, a copy for each test."""
    return Path(shutil.copy(study_made, tmp_path / study_made.name))


class Gathered:
    """Records that are there already, in the guise of a file being read."""

    def __init__(self, source, records):
        self.source, self.records, self.name = source, records, source.name

    def __iter__(self):
        return iter(self.records)

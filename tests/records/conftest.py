"""Stores on both databases: SQLite in a temporary folder, PostgreSQL in a private cluster."""

from __future__ import annotations

import pytest
from cluster import Cluster, programs

from zesty_lever.records.store import open_store


def pytest_generate_tests(metafunc):
    if "address" in metafunc.fixturenames:
        kinds = ["sqlite", pytest.param("postgres", marks=pytest.mark.postgres)]
        metafunc.parametrize("kind", kinds, scope="function")


def pytest_collection_modifyitems(config, items):
    if programs() is None:
        gone = [item for item in items if item.get_closest_marker("postgres")]
        if gone:
            print(f"\nno PostgreSQL programs here: {len(gone)} tests of a staff's server left out")
            config.hook.pytest_deselected(items=gone)
            items[:] = [item for item in items if item not in gone]


@pytest.fixture(scope="session")
def cluster():
    made = Cluster()
    yield made
    made.remove()


@pytest.fixture
def address(kind, tmp_path, request):
    if kind == "sqlite":
        return tmp_path / "records.db"
    return request.getfixturevalue("cluster").fresh()


@pytest.fixture
def store(address):
    opened = open_store(address)
    yield opened
    opened.close()

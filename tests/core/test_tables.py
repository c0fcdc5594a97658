"""The tables that the page is held to are what the core says."""

import json

import pytest

from tests.tables import TABLES, path_of


@pytest.mark.parametrize("name", TABLES)
def test_a_table_is_what_the_core_says(name: str) -> None:
    told = json.loads(json.dumps(TABLES[name]()))
    assert json.loads(path_of(name).read_text()) == told, "run python -m tests.tables"

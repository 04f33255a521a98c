"""Work that shares one transaction: it sees one state, and what was written in it is kept whole or not at all."""

import datetime as dt
import uuid

import pytest
from sqlalchemy import select, text

from mudlamp.store.database import in_one, work
from mudlamp.store.models import AnglerRow
from mudlamp.store.scope import EVERYBODY


def _names(engine):
    with work(engine, EVERYBODY) as session:
        return set(session.scalars(select(AnglerRow.name)))


def _add(engine, name):
    with work(engine, EVERYBODY) as session:
        session.add(AnglerRow(id=uuid.uuid4(), name=name, created_at=dt.datetime.now(dt.UTC)))


def _backend(engine):
    with work(engine, EVERYBODY) as session:
        return session.scalar(text("select pg_current_xact_id()"))


def test_work_in_one_shares_its_transaction(engine):
    with in_one(engine):
        first = _backend(engine)
        with in_one(engine):
            assert _backend(engine) == first
    assert _backend(engine) != first


def test_what_is_written_in_one_is_kept_at_its_end(engine):
    with in_one(engine):
        _add(engine, "Ada")
        _add(engine, "Bo")
        assert {"Ada", "Bo"} <= _names(engine)
    assert {"Ada", "Bo"} <= _names(engine)


def test_what_fails_in_one_keeps_nothing_of_it(engine):
    def fall_over():
        with in_one(engine):
            _add(engine, "Ada")
            raise ValueError("fell over")

    with pytest.raises(ValueError, match="fell over"):
        fall_over()
    assert "Ada" not in _names(engine)

"""The tables of places: spots, and charts of one's own."""

import datetime as dt
import uuid

from sqlalchemy import (
    ARRAY,
    CheckConstraint,
    Double,
    Index,
    Integer,
    String,
    UniqueConstraint,
)
from sqlalchemy.orm import Mapped, mapped_column

from mudlamp.store.models.base import (
    SOURCE_RULE,
    Base,
    Deletable,
    Key,
    Moment,
    Notes,
    Owned,
    Words,
    searched,
)


class SpotRow(Owned, Deletable, Base):
    """A spot: a place on a water, how well it is known, what it is."""

    __tablename__ = "spot"
    __table_args__ = (
        CheckConstraint(SOURCE_RULE, name="spot_source"),
        Index("ix_spot_owner", "owner", "water"),
        Index("ix_spot_words", "words", postgresql_using="gin"),
    )
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    water: Mapped[str] = mapped_column(String(60))
    kind: Mapped[str] = mapped_column(String(20))
    note: Mapped[str] = mapped_column(Notes)
    x_m: Mapped[float] = mapped_column(Double)
    y_m: Mapped[float] = mapped_column(Double)
    depth_m: Mapped[float | None] = mapped_column(Double)
    xx_m2: Mapped[float] = mapped_column(Double)
    xy_m2: Mapped[float] = mapped_column(Double)
    yy_m2: Mapped[float] = mapped_column(Double)
    looks: Mapped[int] = mapped_column(Integer)
    source: Mapped[str] = mapped_column(String(12))
    created_at: Mapped[dt.datetime] = mapped_column(Moment)
    bearing_rad: Mapped[float | None] = mapped_column(Double)
    away_m: Mapped[float | None] = mapped_column(Double)
    words: Mapped[str] = searched("kind", "note")


class ChartRow(Owned, Base):
    """An angler's own chart of a water: depths at places, flat: longitude, latitude [deg], depth [m]."""

    __tablename__ = "own_chart"
    __table_args__ = (UniqueConstraint("owner", "name", name="one_chart_a_water"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(Words(60))
    latitude_deg: Mapped[float] = mapped_column(Double)
    longitude_deg: Mapped[float] = mapped_column(Double)
    soundings: Mapped[list[float]] = mapped_column(ARRAY(Double))
    created_at: Mapped[dt.datetime] = mapped_column(Moment)

"""Readings of a recording under a set-up, and its picture."""

from collections import defaultdict
from collections.abc import Mapping
from pathlib import Path

from mudlamp.core.controls import DOWN_TO, RECEIVER, WINDOW
from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.receiver.readings import Readings, ReadingsMeter
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import ReceiverSetup, Setup, Window, with_settings
from mudlamp.formats.recording import RecordingReader
from mudlamp.formats.truth import read_truth
from mudlamp.services.edge.controls import read_settings
from mudlamp.services.recordings.picture import Shown, write_picture


def measure_recording(path: Path, *, truth: Path | None, values: Mapping[str, object], png: Path | None = None) -> Readings:
    """Return the readings of a whole recording under the set-up of `values` (edge names); write its last picture to `png`.

    Raises RecordingError for a bad file, DomainError for a bad value.
    """
    settings = read_settings(values, (*RECEIVER, *WINDOW), what="of the receiver or the window")
    receiver_setup = with_settings(ReceiverSetup(), *settings)
    reader = RecordingReader(path)
    try:
        window = with_settings(whole_window(reader), *settings)
        rows = None if truth is None else rows_by_time(read_truth(truth)[0])
        receiver, meter = Receiver(receiver_setup), ReadingsMeter(keep=10_000_000)
        ping, picture = None, None
        for ping in reader:
            picture = receiver.develop(ping)
            meter.add(ping, picture, receiver_setup, window, None if rows is None else rows[round(ping.time_s, 4)])
    finally:
        reader.close()
    if png is not None and ping is not None and picture is not None:
        write_picture(png, Shown(ping=ping, picture=picture, setup=Setup(receiver=receiver_setup, window=window)))
    return meter.readings(receiver_setup)


def whole_window(reader: RecordingReader) -> Window:
    """Return the window that shows all of a recording's ping."""
    farthest = DOWN_TO.held(reader.setup.farthest_m)
    return Window(down_to_m=farthest, reach_m=farthest, look_back_m=farthest)


def rows_by_time(rows: list[TruthRow]) -> Mapping[float, list[TruthRow]]:
    """Return truth rows by the time of their ping."""
    found: dict[float, list[TruthRow]] = defaultdict(list)
    for row in rows:
        found[round(row.time_s, 4)].append(row)
    return found

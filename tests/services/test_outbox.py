import multiprocessing
import threading

import pytest

from mudlamp.services.live import line
from mudlamp.services.outbox import MOST_WAITING, Outbox


@pytest.fixture
def pipe():
    near, far = multiprocessing.Pipe()
    yield near, far
    near.close()
    far.close()


def text(number):
    return line.Text("note", f"{number} " + "x" * 4000)


def test_messages_arrive_in_order_and_of_pictures_the_newest(pipe):
    near, far = pipe
    box = Outbox(near, slot_of=line.slot_of, name="test")
    for number in range(200):
        assert box.put(text(number))
        box.put(line.FrameOf(bytes([number]), 0))
    heard = []
    while not heard or not isinstance(heard[-1], line.Over):
        heard.append(far.recv())
        if len(heard) == 1:
            assert box.put(line.Over())
    texts = [one.message.split()[0] for one in heard if isinstance(one, line.Text)]
    assert texts == [str(number) for number in range(200)]
    pictures = [one.data for one in heard if isinstance(one, line.FrameOf)]
    assert pictures[-1] == bytes([199])
    assert len(pictures) < 200


def test_nobody_waits_for_an_end_that_does_not_read(pipe):
    near, _far = pipe
    box = Outbox(near, slot_of=line.slot_of, name="test")
    taken = 0
    while box.put(text(taken), wait_s=0.2):
        taken += 1
    # What is in the pipe already has left the box.
    assert MOST_WAITING <= taken < 2 * MOST_WAITING
    assert not box.put(text(0))
    # What has a slot always finds room.
    assert box.put(line.Stages({}, 0))


def test_room_is_waited_for_and_an_end_that_is_gone_holds_nobody_up(pipe):
    near, far = pipe
    box = Outbox(near, slot_of=line.slot_of, name="test")
    while box.put(text(0), wait_s=0.2):
        continue
    reading = threading.Thread(target=lambda: [far.recv() for _ in range(120)])
    reading.start()
    assert box.put(text(1), wait_s=5.0)
    reading.join()
    while box.put(text(0)):
        continue
    far.close()
    assert box.put(text(2), wait_s=5.0)
    box.close(2.0)
    assert not box._thread.is_alive()

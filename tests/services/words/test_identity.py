from dataclasses import replace

from mudlamp.core.tracking.bait_watch import BaitDoing
from mudlamp.core.tracking.classes import FishClass, Identity, Look, Word
from mudlamp.core.tracking.groups import Cloud, School
from mudlamp.services.words.bait import bait_words, cloud_words
from mudlamp.services.words.identity import called, school_words, who_words


def an_identity(**odds):
    table = {FishClass(name.replace("_", " ")): share for name, share in odds.items()}
    best = max(table, key=table.get)
    return Identity(odds=table, name=best, words=(Word.SHORT, Word.STILL, Word.SCHOOLED), look=Look.SIDE_ON if table[best] < 0.85 else None)


def test_a_mark_carries_its_class_where_that_is_sure_enough():
    assert called(None) == "fish"
    assert called(an_identity(panfish=0.55, bass=0.45)) == "fish"
    assert called(an_identity(panfish=0.7, bass=0.3)) == "panfish"
    assert called(an_identity(unknown=0.9, bass=0.1)) == "fish"


def test_who_it_is_in_a_line():
    assert who_words(None) == ""
    assert (
        who_words(an_identity(panfish=0.72, bass=0.18, unknown=0.1))
        == "panfish 72 %, bass 18 %: short, holds still, among others. To be sure: wait for its side"
    )
    assert who_words(an_identity(rough_fish=0.93, bass=0.07)) == "rough fish 93 %: short, holds still, among others."
    assert "no fish 60 %" in who_words(an_identity(unknown=0.6, bass=0.4))


def test_a_school_is_said_with_its_doubt_in_round_numbers():
    school = School(members=frozenset({1, 2}), place=(8.0, 3.0), radius_m=1.0, about=41, low=33, high=52)
    assert school_words(school) == "school, about 40 (35 to 50)"


def test_bait_is_said_by_how_dense_it_is_and_by_what_it_did():
    packed = Cloud(members=frozenset(), place=(8.0, 3.0), radius_m=1.0, echoes=60, per_m2=19.0)
    assert cloud_words(packed) == "bait, packed"
    assert cloud_words(replace(packed, echoes=6, per_m2=2.0)) == "bait, thin"
    assert cloud_words(packed, BaitDoing.BURSTS) == "bait bursts"
    assert (
        bait_words(BaitDoing.BURSTS, (7.3, 3.66), flat=False)
        == "Bait bursts 24 ft ahead, 12 ft down: a bigger fish shot through it. Throw there."
    )
    assert bait_words(BaitDoing.TIGHTENS, (7.3, -1.22), flat=True) == "Bait tightens 24 ft ahead, 4 ft left: something bigger is near it."

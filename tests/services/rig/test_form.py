from mudlamp.core.controls import GAIN, QUIETING
from mudlamp.core.rig.profile import RigProfile, ScaleKind
from mudlamp.services.edge import forms
from mudlamp.services.rig.box import LURE_FIELDS
from mudlamp.services.rig.form import SECTIONS, read_section, restored, stored
from mudlamp.services.rig.unit_words import read_words


def test_a_rig_survives_its_form_and_its_store():
    rig = RigProfile()
    for section in SECTIONS.values():
        texts = forms.texts_of(section.fields, section.values(rig))
        changed, found = read_section(section, rig, texts)
        assert found.problems == {}
        assert forms.texts_of(section.fields, section.values(changed)) == texts
    assert restored(stored(rig)) == rig
    bad, found = read_section(SECTIONS["power"], rig, {"gauge": "40"})
    assert bad is rig
    assert found.problems["gauge"] == "Wire gauge is 40: it must be 4 to 22 AWG"
    assert found.problems["capacity_ah"].startswith("Capacity is empty")


def test_stepped_controls_are_matched_step_for_step():
    own, problems = read_words(QUIETING, {"label": "Noise", "kind": "steps", "steps": "Off, Low, Med, High"})
    assert problems == {}
    assert (own.kind, own.steps) == (ScaleKind.STEPS, ("Off", "Low", "Med", "High"))
    _, problems = read_words(QUIETING, {"label": "Noise", "kind": "steps", "steps": "Off, On"})
    assert problems == {"steps": "Its steps are 2: they must be 4, one for each of ours"}
    _, problems = read_words(GAIN, {"label": "Sens", "kind": "percent", "low": "50", "high": "10"})
    assert problems["high"].startswith("To is 10: it must be more than 50")
    assert read_words(GAIN, {"label": ""}) == (None, {})


def test_a_lure_without_its_head_is_asked_for_it():
    assert forms.read(LURE_FIELDS, {"kind": "jig", "material": "lead"}).problems == {"head_oz": "Head is empty: it must be 0.0078 to 2 oz"}

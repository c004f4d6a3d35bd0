"""The knowledge of faults: what does not add up is refused, and people's own words are known."""

from __future__ import annotations

import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.supply.sheet import Topology
from hale_rail.formats.knowledge import knowledge_for, read_knowledge

from ...sizes import IS_ALL

FLYBACK = knowledge_for(Topology.FLYBACK)

GOOD = """
[rates]
"short:bridge" = 1.0
[[group]]
id = "a"
name = "a"
stage = "s"
remedy = "r"
faults = ["short:bridge"]
[[symptom]]
id = "s"
name = "s"
regimes = ["dead"]
[[test]]
id = "t"
name = "t"
how = "h"
results = ["bad", "good"]
minutes = 1
danger = "cold"
points = { kind = "bridge", reads = "part", ask = "junction", shows = ["short"] }
"""


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ("= 1.0", "= 0", "above 0"),
        ('"short:bridge" = 1.0', '"shorted:bridge" = 1.0', "no way to fail"),
        ('faults = ["short:bridge"]', 'faults = ["melted:bridge"]', "no way to fail"),
        ('["dead"]', '["asleep"]', "unknown regimes"),
        ('["bad", "good"]', '["bad"]', "two results"),
        ('danger = "cold"', 'danger = "mild"', "danger is"),
        ('shows = ["short"]', 'shows = ["sad"]', "known states"),
        ("[[group]]", "[[group", "not TOML"),
        ("[[test]]", '[[symptom]]\nid = "s"\nname = "s"\n[[test]]', "is listed twice"),
    ],
)
def test_knowledge_that_does_not_add_up_is_refused(old: str, new: str, says: str) -> None:
    assert read_knowledge(GOOD, Topology.LINEAR).test("t")
    with pytest.raises(InputError, match=says):
        read_knowledge(GOOD.replace(old, new, 1), Topology.LINEAR)


@pytest.mark.parametrize("topology", list(Topology))
def test_the_shipped_knowledge_knows_symptoms_as_people_say_them(topology: Topology) -> None:
    known = knowledge_for(topology)
    assert [s.id for s in known.symptoms if len(s.words) < 15] == []
    # what a flyback's has too is tried there
    is_whole = IS_ALL or topology is Topology.FLYBACK
    tried = [s for s in known.symptoms if is_whole or s not in FLYBACK.symptoms]
    missed = [
        phrase
        for symptom in tried
        for phrase in symptom.words
        if symptom not in known.suggested(f"it {phrase}, they say")
    ]
    assert missed == []


@pytest.mark.parametrize(
    ("typed", "wanted"),
    [
        ("No signs of life at all", "dead-whole"),
        ("Won't turn on", "dead-whole"),
        ("the fuse blackened with a bang", "fuse-black"),
        ("Pops the fuse as soon as I switch on", "fuse-at-once"),
        ("keeps clicking, the fan twitches", "hiccup"),
        ("cuts out for a second, then comes back", "drops-out"),
        ("no +12 on the plug", "rail-missing"),
        ("wavy picture", "ripple"),
        ("smells burnt", "smoke"),
        ("crashes after half an hour", "warm"),
        ("random memory errors", "resets"),
        ("fan runs but no picture", "machine-dead"),
        ("whines loudly", "squeals"),
        ("I recapped it and now it's dead", "after-recap"),
        ("nothing wrong, just maintenance", "preventive"),
        ("takes several tries to start", "second-try"),
        ("comes on for a second and shuts off right away", "stays-off"),
        ("trips the RCD", "breaker"),
        ("works disconnected, dies with the drive", "no-load-only"),
        ("the crowbar fired", "protection"),
        ("5V is too high", "overvoltage"),
    ],
)
def test_a_plain_phrase_finds_its_symptom(typed: str, wanted: str) -> None:
    found = [s.id for s in knowledge_for(Topology.FLYBACK).suggested(typed)]
    assert wanted in found[:3], found


def test_a_phrase_that_fits_nothing_finds_nothing() -> None:
    assert knowledge_for(Topology.FLYBACK).suggested("the label peels off") == ()

"""Who lives where and what is tied on, in shares and ranges that waters are drawn from. They are ours."""

from mudlamp.core.casting.lures import Line, LureKind
from mudlamp.core.scene.kinds_of_water import Stands
from mudlamp.core.scene.species import Species

# Lengths [m] and typical moods; bodies of other kinds overlap.
LENGTHS_M = {
    Species.CRAPPIE: (0.16, 0.38),
    Species.BLUEGILL: (0.10, 0.22),
    Species.LARGEMOUTH: (0.24, 0.58),
    Species.CARP: (0.35, 0.80),
    Species.DRUM: (0.28, 0.65),
    Species.GAR: (0.45, 1.10),
    Species.CATFISH: (0.30, 0.85),
}
PACES_M_S = {
    Species.CRAPPIE: (0.05, 0.25),
    Species.BLUEGILL: (0.05, 0.30),
    Species.LARGEMOUTH: (0.10, 0.55),
    Species.CARP: (0.15, 0.60),
    Species.DRUM: (0.20, 0.70),
    Species.GAR: (0.05, 0.40),
    Species.CATFISH: (0.08, 0.45),
}
# Who is found where, in shares.
AT_HOME = {
    Stands.OPEN: {
        Species.CRAPPIE: 0.4,
        Species.LARGEMOUTH: 0.2,
        Species.DRUM: 0.15,
        Species.CARP: 0.1,
        Species.CATFISH: 0.1,
        Species.GAR: 0.05,
    },
    Stands.BRUSH: {Species.CRAPPIE: 0.6, Species.LARGEMOUTH: 0.2, Species.BLUEGILL: 0.15, Species.CATFISH: 0.05},
    Stands.TIMBER: {Species.CRAPPIE: 0.6, Species.LARGEMOUTH: 0.2, Species.BLUEGILL: 0.1, Species.CATFISH: 0.1},
    Stands.WEEDS: {Species.LARGEMOUTH: 0.4, Species.BLUEGILL: 0.4, Species.CRAPPIE: 0.1, Species.CARP: 0.1},
    Stands.ROCK: {Species.LARGEMOUTH: 0.5, Species.DRUM: 0.2, Species.CATFISH: 0.15, Species.CRAPPIE: 0.15},
    Stands.DOCK: {Species.CRAPPIE: 0.45, Species.LARGEMOUTH: 0.25, Species.BLUEGILL: 0.2, Species.CARP: 0.1},
    Stands.PILINGS: {Species.CRAPPIE: 0.45, Species.LARGEMOUTH: 0.3, Species.DRUM: 0.15, Species.CATFISH: 0.1},
}
SCHOOLS = frozenset({Species.CRAPPIE, Species.BLUEGILL})
# How often each lure is tied on; a jig twice as often. The heads of those that are thrown far are heavier [oz].
LURES = (LureKind.JIG, *LureKind)
HEADS_OZ = (1 / 32, 1 / 16, 1 / 8, 1 / 4, 3 / 8, 1 / 2)
HEAVY_OZ = (1 / 8, 1 / 4, 3 / 8, 1 / 2, 3 / 4, 1.0)
HEAVY = frozenset({LureKind.BLADED_JIG, LureKind.JERKBAIT, LureKind.SPINNERBAIT, LureKind.UMBRELLA})
LINES = {Line.FLUOROCARBON: 0.65, Line.BRAID: 0.25, Line.MONOFILAMENT: 0.1}

"""Cautions that are beside a remedy, where the hand is."""

#: beside whatever fits or powers a suppressor, a tantalum or an electrolytic
VENTS = (
    "Eye protection, distance and ventilation at its first power, the plug at hand: one that is "
    "reversed or worn out vents, loudly; its smoke is not to be breathed."
)
#: beside a suppressor across the mains
ENERGISED = (
    "It is live while the unit is plugged in, with its switch off too: if it smokes, pull the "
    "plug, do not press the switch."
)
EARTH = (
    "After it: earth continuity, insulation and what the local code demands, by a person competent "
    "to test it."
)

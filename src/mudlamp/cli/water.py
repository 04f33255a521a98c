"""`./lamp water`: sound speed, absorption, ping limit."""

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser, ranged
from mudlamp.core.units import feet
from mudlamp.services.water.sound import sound_in_water


def run(words: list[str]) -> int:
    """Answer for one water."""
    parser = Parser(prog="lamp water", description="Speed of sound, absorption and ping limit of fresh water.")
    parser.add_argument("--temp-f", type=ranged(32.0, 104.0, "deg F"), required=True, help="water temperature, 32 to 104 deg F")
    parser.add_argument("--freq-khz", type=ranged(10.0, 5000.0, "kHz"), default=900.0, help="carrier, 10 to 5000 kHz (default 900)")
    parser.add_argument(
        "--reach-ft", type=ranged(1.0, 400.0, "ft"), default=40.0, help="range that a ping must cover, 1 to 400 ft (default 40)"
    )
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    found = sound_in_water(temp_f=options.temp_f, freq_khz=options.freq_khz, reach_ft=options.reach_ft)
    give(
        found,
        as_json=options.json,
        lines=[
            f"sound speed {feet(found.sound_speed_m_s):.0f} ft/s ({found.sound_speed_m_s:.1f} m/s)",
            f"absorption {found.absorption_db_m:.3f} dB/m one way at {options.freq_khz:g} kHz",
            f"at most {found.ping_limit_hz:.1f} pings a second to {options.reach_ft:g} ft",
        ],
    )
    return 0

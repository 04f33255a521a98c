"""`./lamp water`: sound speed, absorption, ping limit."""

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser, ranged
from mudlamp.core.units import degc_from_degf, feet, meters
from mudlamp.core.water.sound import absorption_db_per_m, ping_limit_hz, sound_speed_m_s


def run(words: list[str]) -> int:
    """Answer for one water."""
    parser = Parser(prog="lamp water", description="Sound speed, absorption and ping limit of fresh water.")
    parser.add_argument("--temp-f", type=ranged(32.0, 104.0, "deg F"), required=True, help="water temperature, 32 to 104 deg F")
    parser.add_argument("--freq-khz", type=ranged(10.0, 5000.0, "kHz"), default=900.0, help="carrier, 10 to 5000 kHz (default 900)")
    parser.add_argument("--reach-ft", type=ranged(1.0, 400.0, "ft"), default=40.0, help="range that a ping must cover, 1 to 400 ft (default 40)")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    temperature = degc_from_degf(options.temp_f)
    speed = float(sound_speed_m_s(temperature_degc=temperature))
    absorption = float(absorption_db_per_m(carrier_hz=options.freq_khz * 1000.0, temperature_degc=temperature))
    limit = ping_limit_hz(range_m=meters(options.reach_ft), speed_m_s=speed)
    give(
        {"sound_speed_m_s": speed, "absorption_db_m": absorption, "ping_limit_hz": limit},
        as_json=options.json,
        lines=[
            f"sound speed {feet(speed):.0f} ft/s ({speed:.1f} m/s)",
            f"absorption {absorption:.3f} dB/m one way at {options.freq_khz:g} kHz",
            f"at most {limit:.1f} pings a second to {options.reach_ft:g} ft",
        ],
    )
    return 0

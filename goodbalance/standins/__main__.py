"""./run device FAMILY: a simulated device on Modbus TCP, with the demo's station behind it. Ctrl-C ends it."""

import argparse
import asyncio
import os
import sys
from pathlib import Path

from goodbalance.exchange.profiles import shipped_profiles
from goodbalance.standins.server import Broken, serve_device
from goodbalance.standins.station import stand_in


def main(arguments: list[str]) -> int:
    """Run until stopped. Returns the exit code."""
    asked = argparse.ArgumentParser(prog="./run device", description=__doc__)
    asked.add_argument("family", help=f"one of {', '.join(shipped_profiles())}")
    asked.add_argument("--port", type=int, default=5502)
    asked.add_argument("--new", action="store_true", help="as it comes from its maker, nothing typed in")
    asked.add_argument("--pace", type=float, default=1.0, help="seconds of the station in a second")
    asked.add_argument("--broken", choices=[each.value for each in Broken], help="how it fails")
    asked.add_argument("--off", action="store_true", help="every pump's switch in OFF")
    asked.add_argument("--wrong", default="", metavar="CODE=TEXT", help="one number that stands otherwise")
    asked.add_argument("--file", type=Path, help="where it keeps what was saved (var/devices)")
    asked.add_argument("--with-parent", action="store_true", help=argparse.SUPPRESS)  # ends when whoever started it is gone
    told = asked.parse_args(arguments)
    folder = Path(os.environ.get("GOODBALANCE_VAR", "var")) / "devices"
    try:
        device = stand_in(told.family, told.file or folder / f"{told.family}-{told.port}.json", told.new)
    except KeyError:
        print(f"There is no device of family {told.family!r}: no station of the demo has such a controller.", file=sys.stderr)
        return 1
    if told.wrong:
        code, _, text = told.wrong.partition("=")
        if code not in device.shown:
            print(f"--wrong is {told.wrong!r}: {told.family} has no code {code!r}.", file=sys.stderr)
            return 1
        device.type_in(code, text)
    for pump in range(1, device.survey.pumping.count + 1) if told.off else ():
        device.turn(pump, 1)
    print(f"{told.family} answers on 127.0.0.1:{told.port} ({len(device.registers)} numbers). Ctrl-C ends it.", flush=True)
    try:
        asyncio.run(serve_device(device, told.port, Broken(told.broken) if told.broken else None, told.pace, os.getppid() if told.with_parent else None))
    except KeyboardInterrupt:
        pass
    except OSError as wrong:
        print(f"The device cannot answer on port {told.port}: {wrong.strerror or wrong}.", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

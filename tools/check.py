"""python -m tools.check: do types and style hold, are the packages sound and without known holes, does the bill of materials name them all.

Run by ./run check in an environment that has pip-audit. What cannot be reached from here is said and not counted as a hole.
"""

import json
import re
import subprocess
import sys
from pathlib import Path

PINNED, BILL = Path("requirements/app.txt"), Path("docs/bill-of-materials.json")
SHIPPED = Path("goodbalance/web/static/vendor")
NAMED = re.compile(r"^([A-Za-z0-9_.-]+)==(\S+)", re.MULTILINE)


def pinned() -> dict[str, str]:
    """Every package of the application with its version, by its plain name."""
    return {_plain(name): version for name, version in NAMED.findall(PINNED.read_text())}


def _plain(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()


def bill() -> dict[str, object]:
    """The bill of materials (CycloneDX 1.6): packages that are installed, fonts, styles and scripts that are shipped."""
    components = [
        {"type": "library", "name": name, "version": version, "purl": f"pkg:pypi/{name}@{version}", "bom-ref": f"pkg:pypi/{name}@{version}"}
        for name, version in sorted(pinned().items())
    ]
    for licence in sorted(SHIPPED.glob("*.LICENSE")):
        files = sorted(path.name for path in SHIPPED.iterdir() if path.name.lower().startswith(licence.stem.lower()[:5]) and path != licence)
        components.append({"type": "library", "name": licence.stem, "bom-ref": licence.stem, "description": ", ".join(files)})
    return {"bomFormat": "CycloneDX", "specVersion": "1.6", "version": 1, "components": components}


def code_holds() -> bool:
    """Style and imports by ruff over everything, types by mypy, strictly over the core."""
    here = Path(sys.executable)
    style = subprocess.run([here.with_name("ruff"), "check", "-q", "goodbalance", "tests", "tools"])
    types = subprocess.run([here.with_name("mypy"), "--python-executable", ".venv/bin/python"])
    return style.returncode == types.returncode == 0


def main(write: bool) -> int:
    text = json.dumps(bill(), indent=1) + "\n"
    if write:
        BILL.write_text(text)
        print(f"{BILL}: {len(bill()['components'])} parts")  # type: ignore[arg-type]
        return 0
    bad = 0 if code_holds() else 1
    if not BILL.exists() or BILL.read_text() != text:
        print(f"{BILL} does not name what is pinned: ./run pin writes it anew")
        bad = 1
    without = [name for name, block in re.findall(r"^(\S+==\S+)((?: \\\n.*)*)", PINNED.read_text(), re.MULTILINE) if "--hash" not in block]
    if without:
        print(f"without a hash: {', '.join(without)}")
        bad = 1
    sound = subprocess.run([".venv/bin/python", "-m", "pip", "check"], capture_output=True, text=True)
    print(sound.stdout.strip())
    audit = subprocess.run([Path(sys.executable).with_name("pip-audit"), "-r", PINNED, "--require-hashes", "--disable-pip", "--progress-spinner", "off"], capture_output=True, text=True)
    said = audit.stdout + audit.stderr
    unasked = said.count("could not be audited")
    if unasked or (audit.returncode and "Found" not in said):
        print(f"known holes: {unasked or 'all'} of {len(pinned())} packages could not be asked for from here")
    if "Found" in said:
        print(said.strip())
        bad = 1
    elif not unasked and not audit.returncode:
        print("no known hole in any package")
    return 1 if bad or sound.returncode else 0


if __name__ == "__main__":
    asked = sys.argv[1:]
    sys.exit((0 if code_holds() else 1) if asked == ["code"] else main(asked == ["write"]))

"""python -m tools.lighthouse [view ...]: performance, accessibility, best practices and search of the main views, as a table of four shares.

Needs npm and a network, and therefore runs by hand and not among the tests. What an audit finds fault with stands under the table.
"""

import json
import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

os.environ["GOODBALANCE_FAST_HASH"] = "1"

from goodbalance.demo.kestrel_point import PASSWORD, TECHNICIAN, load_demo
from goodbalance.store import records
from tools.stage.server import Visitor, WebServer, empty_session

HERE = Path(__file__).parent
VIEWS = ("home", "survey", "reckon", "rehearse", "enter", "prove", "handover")
CATEGORIES = ("performance", "accessibility", "best-practices", "seo")
CHROMIUM = "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync"


def looked_at(tool: Path, address: str, cookie: str) -> dict[str, Any]:
    """The report of one page, as somebody sees it who is signed in."""
    command = ["node", str(tool), address, "--quiet", "--output=json", "--preset=desktop", f"--chrome-flags={CHROMIUM}", f"--extra-headers={json.dumps({'Cookie': cookie})}"]
    done = subprocess.run(command, capture_output=True, text=True, check=False, env={**os.environ, "CHROME_PATH": shutil.which("chromium") or ""})
    if done.returncode:
        raise SystemExit(done.stderr[-2000:])
    report: dict[str, Any] = json.loads(done.stdout)
    return report


def faults(report: dict[str, Any]) -> list[str]:
    """Audits that are not passed, worst first."""
    found = [audit for audit in report["audits"].values() if audit["score"] is not None and audit["score"] < 0.9]
    return [f"{audit['id']}: {audit['title']} {audit.get('displayValue', '')} {_where(audit)}".rstrip() for audit in sorted(found, key=lambda audit: audit["score"])]


def _where(audit: dict[str, Any]) -> str:
    """The first places on the page that it is about, where it is about any."""
    nodes = [item["node"]["snippet"] for item in audit.get("details", {}).get("items", ()) if "node" in item]
    return " ".join(nodes[:3])[:300]


def main() -> None:
    wanted = sys.argv[1:] or VIEWS
    with empty_session() as session:
        load_demo(session)
        session.commit()
        station = next(row.id for row in records.stations(session) if row.name == "Slipway sump")
    with tempfile.TemporaryDirectory() as folder, WebServer() as web:
        shutil.copy(HERE / "package.json", folder)
        subprocess.run(["npm", "install", "--silent", "--ignore-scripts", "--prefix", folder], check=True)
        tool = Path(folder) / "node_modules/lighthouse/cli/index.js"
        visitor = Visitor(web.address).sign_in(TECHNICIAN, PASSWORD)
        cookie = "; ".join(f"{name}={value}" for name, value in visitor.http.cookies.items())
        print("| view | " + " | ".join(CATEGORIES) + " |\n|---|---|---|---|---|", flush=True)
        told = []
        for view in wanted:
            report = looked_at(tool, f"{web.address}/" if view == "home" else f"{web.address}/stations/{station}/{view}", cookie)
            print(f"| {view} | " + " | ".join(f"{report['categories'][name]['score']:.2f}" for name in CATEGORIES) + " |", flush=True)
            told += [f"{view}: {fault}" for fault in faults(report)]
        print("\n" + "\n".join(told))


if __name__ == "__main__":
    main()

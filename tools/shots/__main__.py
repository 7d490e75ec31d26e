"""python -m tools.shots: the pictures in docs/screenshots, taken from the demo data at 1280 x 800 and 390 x 844."""

import os
import time
from pathlib import Path

os.environ["GOODBALANCE_FAST_HASH"] = "1"

from goodbalance.demo.kestrel_point import PASSWORD, TECHNICIAN, load_demo
from goodbalance.exchange.modbus import Address
from goodbalance.store import records
from tools.bench import stand_in_process
from tools.stage.browser import Browser
from tools.stage.server import WebServer, empty_session
from tools.stage.technician import Technician

FOLDER = Path("docs/screenshots")
WHY = (
    "const see = (sign, text) => { document.getElementById(`sign-${sign}`).value = text };see('level', '1.9');see('rises', 'yes');see('runs.1', 'yes');"
    "see('current.1', '2.7');see('runs.2', 'no');see('tripped.2', 'yes');see('overload.2', 'yes');document.querySelector('#why button.go').click()"
)
PLAY = "document.querySelectorAll('[data-inflow]')[2].click();document.querySelector('[data-speed=\"600\"]').click();document.getElementById('play').click();"


def main() -> None:
    with empty_session() as session:
        load_demo(session)
        session.commit()
        stations = {row.name: row.id for row in records.stations(session)}
    slipway, empty, booster, transfer, pier, ring = (
        stations[name]
        for name in ("Slipway sump", "Seal clinic lift, lower sewer", "Aquarium booster", "Brine header transfer", "Pier fire line", "Bunkhouse ring")
    )
    shots = [
        ("survey", f"/stations/{slipway}/survey", 1280, 800, "", 0.0),
        ("reckon", f"/stations/{slipway}/reckon", 1280, 800, "", 0.0),
        ("reckon-phone", f"/stations/{slipway}/reckon", 390, 844, "window.scrollTo(0, 430)", 0.2),
        ("rehearse", f"/stations/{slipway}/rehearse", 1280, 800, PLAY, 5.0),
        ("wiring", f"/stations/{slipway}/wiring", 1280, 800, "", 0.0),
        ("live", f"/stations/{slipway}/live", 1280, 800, "document.getElementById('watch').click()", 20.0),
        ("why", f"/stations/{slipway}/why", 1280, 1000, WHY, 30.0),
        ("noticing", f"/stations/{slipway}/noticing", 1280, 1000, "document.querySelector('[data-go]').click()", 40.0),
        ("energising", f"/stations/{slipway}/energising?step=rotation.1", 1280, 800, "", 0.0),
        ("enter", f"/stations/{slipway}/enter", 1280, 800, "", 0.0),
        ("enter-one", f"/stations/{slipway}/enter?one=7", 390, 844, "", 0.0),
        ("prove", f"/stations/{slipway}/prove", 1280, 800, "document.querySelector('.proof.is-failed').open = true", 0.2),
        ("handover", f"/stations/{slipway}/handover", 1280, 800, "", 0.0),
        ("motors", f"/stations/{slipway}/motors?at=normal&guard=underload&base=overload&share=60", 1280, 1000, "", 0.0),
    ]  # fmt: skip
    shots += [
        ("empty-window", f"/stations/{empty}/reckon", 1280, 800, "0", 6.0),
        ("booster-reckon", f"/stations/{booster}/reckon", 1280, 800, "", 1.0),
        ("transfer-reckon", f"/stations/{transfer}/reckon", 1280, 800, "", 1.0),
        ("maintenance-reckon", f"/stations/{pier}/reckon", 1280, 800, "", 1.0),
        ("ring-reckon", f"/stations/{ring}/reckon", 1280, 800, "", 1.0),
    ]  # fmt: skip
    FOLDER.mkdir(parents=True, exist_ok=True)
    with WebServer() as web, Browser() as browser, stand_in_process("ebbstone_tray", "--pace", "40") as port:
        web.app.state.devices = {"Stand-in of the slipway": Address("127.0.0.1", port)}
        technician = Technician(browser, web.address)
        technician.open("/sign-in")
        technician.one("#name").send_keys(TECHNICIAN)
        technician.one("#password").send_keys(PASSWORD)
        technician.one("button.go").click()
        technician.see("h1", "Stations")
        for name, path, width, height, script, wait_s in shots:
            browser.size(width, height, touch=width < 600)
            technician.open(path)
            time.sleep(0.5)
            if script:
                browser.driver.execute_script(script)
                time.sleep(wait_s)
            browser.driver.execute_script("window.onbeforeunload = null")
            browser.driver.save_screenshot(str(FOLDER / f"{name}.png"))
            print(FOLDER / f"{name}.png", *browser.complaints(), flush=True)


if __name__ == "__main__":
    main()

"""Makes the icons of the installed application from static/icon.svg: python -m tools.icons (needs chromium)."""

import base64
from pathlib import Path

from tools.stage.browser import Browser

STATIC = Path(__file__).parents[1] / "goodbalance" / "web" / "static"
PAPER = "#f5eede"
# file: size in pixels, and how much of the side the sign takes (a maskable icon is cut to a circle by some)
ICONS = {"icon_any_192": (192, 0.84), "icon_any_512": (512, 0.84), "icon_maskable_512": (512, 0.56)}
DRAW = """
const [source, size, share, paper, done] = arguments, image = new Image();
image.onload = () => {
  const canvas = Object.assign(document.createElement("canvas"), { width: size, height: size }), ink = canvas.getContext("2d");
  ink.fillStyle = paper; ink.fillRect(0, 0, size, size);
  const wide = size * share, high = wide * 36 / 42;
  ink.drawImage(image, (size - wide) / 2, (size - high) / 2, wide, high);
  done(canvas.toDataURL("image/png").split(",")[1]);
};
image.src = source;
"""


def main() -> None:
    text = (STATIC / "icon.svg").read_text(encoding="utf-8").replace("<svg ", '<svg width="840" height="720" ', 1)
    source = "data:image/svg+xml;base64," + base64.b64encode(text.encode()).decode()
    with Browser() as browser:
        browser.driver.get("about:blank")
        for name, (size, share) in ICONS.items():
            made = browser.driver.execute_async_script(DRAW, source, size, share, PAPER)
            (STATIC / f"{name}.png").write_bytes(base64.b64decode(made))


if __name__ == "__main__":
    main()

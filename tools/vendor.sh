#!/usr/bin/env bash
# Refresh the fonts, styles and scripts that ship with the app, with their licences. Needs npm.
set -euo pipefail
cd "$(dirname "$0")"
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cp package.json "$work/"
(cd "$work" && npm install --silent --ignore-scripts)
modules="$work/node_modules"
out=../goodbalance/web/static/vendor
mkdir -p "$out" "$work/scss" ../tests/browser/vendor
cp bulma_parts.scss "$work/scss/"
node "$modules/sass/sass.js" --no-source-map --style=compressed --quiet "$work/scss/bulma_parts.scss" "$out/bulma_parts.css"
cp "$modules/bulma/LICENSE" "$out/bulma.LICENSE"
cp "$modules/uplot/dist/uPlot.esm.js" "$modules/uplot/dist/uPlot.min.css" "$out/"
cp "$modules/uplot/LICENSE" "$out/uPlot.LICENSE"
for style in normal italic; do
  cp "$modules/@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-$style.woff2" "$out/"
done
cp "$modules/@fontsource-variable/atkinson-hyperlegible-next/LICENSE" "$out/atkinson-hyperlegible-next.LICENSE"
for subset in latin greek; do
  cp "$modules/@fontsource-variable/jetbrains-mono/files/jetbrains-mono-$subset-wght-normal.woff2" "$out/"
done
cp "$modules/@fontsource-variable/jetbrains-mono/LICENSE" "$out/jetbrains-mono.LICENSE"
mkdir -p ../goodbalance/exchange/fonts
cp "$modules/dejavu-fonts-ttf/ttf/DejaVuSans.ttf" "$modules/dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf" ../goodbalance/exchange/fonts/
cp "$modules/dejavu-fonts-ttf/LICENSE" ../goodbalance/exchange/fonts/DejaVu.LICENSE
cp "$modules/axe-core/axe.min.js" "$modules/axe-core/LICENSE" ../tests/browser/vendor/
node -e '
const p = require(process.argv[1] + "/package.json");
for (const [name, version] of Object.entries({ ...p.dependencies, ...p.devDependencies })) console.log(name, version);
' "$work" > "$out/VERSIONS"
ls -l "$out"

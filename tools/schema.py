"""python -m tools.schema: the JSON Schema of a family's file, written into docs."""

from pathlib import Path

from goodbalance.exchange.profiles import schema_text

if __name__ == "__main__":
    (Path(__file__).parent.parent / "docs" / "profile.schema.json").write_text(schema_text(), encoding="utf-8")

"""Write the cases anew."""

import json

from tests.shared import CASES, FOLDER, written

for name in CASES:
    (FOLDER / f"{name}.json").write_text(json.dumps(written(name), indent=1) + "\n")

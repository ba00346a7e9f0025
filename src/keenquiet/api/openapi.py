"""Print the OpenAPI document: `python -m keenquiet.api.openapi`. The interface's types are generated from it."""

import json
import tempfile
from pathlib import Path

from keenquiet.api.app import make_app


def main() -> None:
    """Write the document to stdout."""
    with tempfile.TemporaryDirectory() as folder:
        app = make_app(Path(folder))
        print(json.dumps(app.openapi(), indent=1, sort_keys=True))
        app.state.data.close()


if __name__ == "__main__":
    main()

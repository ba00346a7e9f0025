"""Print the OpenAPI document: `python -m keenquiet.api.openapi`. The interface's types are generated from it.

Without 202: the page's client waits for the job and asks again, so that whoever asks never meets it.
"""

import json
import tempfile
from pathlib import Path

from keenquiet.api.app import make_app


def main() -> None:
    """Write the document to stdout."""
    with tempfile.TemporaryDirectory() as folder:
        app = make_app(Path(folder))
        described = app.openapi()
        for path in described["paths"].values():
            for operation in path.values():
                operation["responses"].pop("202", None)
        print(json.dumps(described, indent=1, sort_keys=True))
        app.state.data.close()


if __name__ == "__main__":
    main()

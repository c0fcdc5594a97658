"""Print the OpenAPI document, from which the page's client is generated; with "facts" what forms begin with and allow."""

import json
import sys

from zembi.api.app import create_app
from zembi.api.facts import facts

if __name__ == "__main__":
    document = facts() if sys.argv[1:] == ["facts"] else create_app(None).openapi()
    print(json.dumps(document, indent=1, sort_keys=True))

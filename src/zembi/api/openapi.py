"""Print the OpenAPI document, from which the page's client is generated."""

import json

from zembi.api.app import create_app

if __name__ == "__main__":
    print(json.dumps(create_app(None).openapi(), indent=1, sort_keys=True))

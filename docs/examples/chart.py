"""Prints category frequency by the values of a segment: a small client of the API.

    python3 chart.py http://127.0.0.1:8420 QUESTION SEGMENT [TOKEN]
"""

import json
import sys
import urllib.error
import urllib.parse
import urllib.request


def ask(server, path, token=None, **query):
    """Asks for a route; a refusal is an error with the server's own words."""
    request = urllib.request.Request(f"{server}/api/v1{path}?{urllib.parse.urlencode(query)}")
    if token:
        request.add_header("Authorization", f"Bearer {token}")
    try:
        with urllib.request.urlopen(request, timeout=60) as reply:
            return json.load(reply)
    except urllib.error.HTTPError as refusal:
        raise SystemExit(json.load(refusal)["detail"])


def main(server, question, segment, token=None):
    focus = [{"kind": "coded"}]
    chart = ask(server, f"/questions/{question}/chart", token, by=segment, focus=json.dumps(focus))
    names = [column["name"] for column in chart["columns"]]
    print("\t".join(["category", *names]))
    for row, cells in zip(chart["rows"], chart["cells"]):
        print("\t".join([row["path"], *(f"{100 * cell['share']:.1f}" for cell in cells)]))


if __name__ == "__main__":
    main(*sys.argv[1:])

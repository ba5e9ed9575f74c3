"""Ways to an order and to the simulated farm that journeys share."""

import json
import urllib.request
from pathlib import Path

from browser import until

from house.client import Client


def chosen_batch(client: Client, name: str, copies: int, machine: str = "Weir 220") -> str:
    """A part of the demo in the first direction that is proposed, a batch of it chosen; its name for the API."""
    model = next(r["id"] for r in client.get("farm")["records"] if r["record"]["name"] == machine)
    found = next(p for p in client.get("parts") if p["name"] == name)["id"]
    part = lambda: client.get(f"parts/{found}")
    if part()["choice"] is None or part()["process"]["given"]["machine"] != model:
        client.send(f"studies/of/{found}", {"base": part()["version"], "machine": model, "material": "petg"})
        study = until(lambda: (s := client.get(f"studies/{part()['study']}"))["work"]["state"] == "done" and s)
        given = {"base": part()["version"], "up": study["candidates"][0]["up"], "reason": "as it was made"}
        client.send(f"studies/{part()['study']}/choice", given)
        client.send(f"batch/of/{found}", {})
    plate = until(lambda: (b := client.get(f"batch/of/{found}")["analysis"]) and b["done"] and b)
    until(lambda: client.get("work") == [], 600)
    copies = min(copies, len(plate["plate"]["items"]["together"]))
    given = {"base": part()["version"], "mode": "together", "copies": copies, "reason": "as the line needs"}
    client.send(f"batch/{plate['id']}/choice", given)
    return found


def withdraw_all(client: Client) -> None:
    """The demo's orders, and whatever a journey before has left."""
    for order in client.get("week")["orders"]:
        client.send(f"week/orders/{order['id']}", {}, "DELETE")


class FarmDoor:
    """The simulated farm of a home, asked as only the product and its tests can."""

    def __init__(self, home: Path):
        self.home = home

    def ask(self, path: str, given: dict | None = None) -> dict:
        port, token = ((self.home / name).read_text().strip() for name in ("farm-port", "farm-token"))
        body = None if given is None else json.dumps(given).encode()
        request = urllib.request.Request(f"http://127.0.0.1:{port}/{path}", body, {"Authorization": f"Bearer {token}"})
        with urllib.request.build_opener(urllib.request.ProxyHandler({})).open(request, timeout=10) as answer:
            return json.load(answer)

    def machines(self) -> dict[str, dict]:
        return {m["id"]: m for m in self.ask("machines")["machines"]}

    def happen(self, machine: str, what: str) -> None:
        self.ask(f"machines/{machine}/happen", {"what": what})

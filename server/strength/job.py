"""What a job says that a reserve rests on: its loads, and what the part meets in use."""

from hewel.digest import digest
from needs import queries as needs
from strength import bridge


def loads_of(job: dict) -> tuple[dict, list[dict]]:
    """The loads file to be solved, and the cases and combinations (rows of the job) in its order. Of the natures only
    shock is in the file: it multiplies the load.
    """
    given = needs.loads_file(job)
    rows = {c["name"]: c for c in job["loads"]["cases"]}
    sums = {c["name"]: c for c in job["loads"]["combinations"]}
    cases = [rows[c["name"]] for c in given["cases"]] + [sums[c["name"]] for c in given["combinations"]]
    for case in given["cases"]:
        case.pop("cycles", None)
        if case["nature"] != "shock":
            case["nature"] = "static"
    return given, cases


def loads_in_service(job: dict) -> dict | None:
    """The loads file with the nature of every case, so that a reserve read from it is the one that is told here; None
    where nothing is written.
    """
    given = needs.loads_file(job)
    return given if given["cases"] or given["fixed"] else None


def movements_of(job: dict) -> list[dict]:
    return [{"point": m["point"], "direction": m["direction"]} for m in job["loads"]["movements"]]


def service_of(job: dict) -> dict:
    """What the part meets in use, and where each of it is said."""
    given = job["service"]
    warmest = [
        (r["number"]["n"], r["statement"])
        for r in job["requirements"]["rows"]
        if r["kind"] == "environment" and r["number"] and r["number"]["unit"] == "°C"
    ]
    temperature, source = None, None
    if given["temperature"]:
        temperature, source = given["temperature"]["n"], "typed here"
    elif warmest:
        temperature, source = max(warmest)
    use = {"ordinary": "none", "functional": "functional", "injury": "injury"}[job["need"]["use"]]
    return {
        "temperature_c": temperature,
        "temperature_source": source,
        "wet": given["wet"],
        "bond": given["bond"],
        "untested": given["untested"],
        "factor": given["factor"] or bridge.REQUIRED[use],
        "factor_source": "typed here" if given["factor"] else f"for what a failure does: {job['need']['use']}",
    }


def around(service: dict) -> dict:
    """The same as the engine takes it."""
    return {
        "temperature": service["temperature_c"],
        "wet": service["wet"],
        "bond": service["bond"],
        "scatter": service["untested"],
    }


def divided_by(job: dict) -> dict:
    """What a reserve is divided by in the job's circumstances, as the engine takes it."""
    service = service_of(job)
    return {"around": around(service), "factor": service["factor"]}


def services_of(job: dict, ids: list[str]) -> list[tuple]:
    """(nature, cycles) of the cases with these ids; a combination is static."""
    rows = {c["id"]: c for c in job["loads"]["cases"]}
    return [(rows[i]["nature"], rows[i]["cycles"]) if i in rows else ("static", None) for i in ids]


def service_digest(job: dict, ids: list[str]) -> str:
    return digest(service_of(job) | {"temperature_source": None, "factor_source": None}, services_of(job, ids))

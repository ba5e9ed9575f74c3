"""The moments that hands are needed, as a calendar file."""

from datetime import UTC, timedelta

from icalendar import Calendar, Event

from week.queries import week_out
from week.view import WeekView


def calendar_of(view: WeekView) -> bytes:
    """One event a visit to a machine. Its name stays the same from plan to plan, so that a calendar moves it."""
    told = week_out(view)
    names = {m["key"]: m["name"] for m in told["machines"]}
    out = Calendar()
    out.add("prodid", "-//Hewel//week//EN")
    out.add("version", "2.0")
    for run in told["runs"]:
        for i, visit in enumerate(run["visits"]):
            event = Event()
            begin = view.moment(visit["at_s"]).astimezone(UTC)
            event.add("uid", f"{run['order']}-{run['number']}-{i}@hewel")
            event.add("dtstamp", view.now.astimezone(UTC))
            event.add("dtstart", begin)
            event.add("dtend", begin + timedelta(seconds=visit["seconds"]))
            event.add("summary", f"{names[run['machine']]}: {visit['what']}")
            event.add("description", f"{run['copies']} {run['part']}, plate {run['number'] + 1} of {run['of']}")
            out.add_component(event)
    return out.to_ical()

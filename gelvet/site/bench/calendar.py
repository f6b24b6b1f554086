"""Long tests: when a strip in the light is to be measured again, and the same as an iCalendar file."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

from django.utils import timezone

from gelvet.site.bench.models import Card, Exposure
from gelvet.site.bench.services import find_card
from gelvet.site.problems import Problem


@dataclass(frozen=True, slots=True)
class Due:
    """One date of a long test. `state` is done, due or coming."""

    card: Card
    on: date
    what: str
    week: int
    state: str


def begin_exposure(card_id: str, began: date, hours_a_day: float, every_weeks: int, weeks: int, dark_weeks: int) -> Exposure:
    """Starts, or corrects, a card's time in the light; raises Problem."""
    card = find_card(card_id)
    if not any(z["kind"] == "exposed" for z in card.layout["zones"]):
        raise Problem("no-strip", f"Card {card_id} has no strips for the light; plan it with that test.")
    if not 0 < hours_a_day <= 24:
        raise Problem("unknown-time", "Light falls on a strip for more than 0 and at most 24 hours a day.")
    if not 1 <= every_weeks <= weeks <= 520 or dark_weeks > 52:
        raise Problem(
            "unknown-time", "Measure again every week at the most often, within ten years, with at most a year in the dark after it."
        )
    values = {"began": began, "hours_a_day": hours_a_day, "every_weeks": every_weeks, "weeks": weeks, "dark_weeks": dark_weeks}
    exposure, _ = Exposure.objects.update_or_create(card=card, defaults=values)
    return exposure


def hours_in_light(exposure: Exposure, on: date) -> float:
    """Hours of light up to a day; none is added in the dark weeks, and none before it began."""
    end = exposure.began + timedelta(weeks=exposure.weeks)
    return max(0, (min(on, end) - exposure.began).days) * exposure.hours_a_day


def dates(exposure: Exposure) -> list[tuple[date, str, int]]:
    """(day, what to do, week) for the whole test."""
    weeks = [*range(exposure.every_weeks, exposure.weeks + 1, exposure.every_weeks)]
    if weeks[-1:] != [exposure.weeks]:
        weeks.append(exposure.weeks)
    found = [(exposure.began + timedelta(weeks=w), f"measure the strips again (week {w})", w) for w in weeks]
    if exposure.dark_weeks:
        last = exposure.weeks + exposure.dark_weeks
        found.append((exposure.began + timedelta(weeks=last), f"measure after {exposure.dark_weeks} weeks in the dark", last))
    return found


def due_list(exposures: Iterable[Exposure], today: date) -> list[Due]:
    """All dates of `exposures`, soonest first. A date is done once a dry capture was made on it or later and before the next."""
    found = []
    for exposure in exposures:
        captured = sorted(timezone.localtime(c.made).date() for c in exposure.card.captures.all() if c.paint_state == "dry")
        plan = dates(exposure)
        for index, (on, what, week) in enumerate(plan):
            until = plan[index + 1][0] if index + 1 < len(plan) else date.max
            done = any(on <= c < until for c in captured)
            found.append(Due(exposure.card, on, what, week, "done" if done else "due" if on <= today else "coming"))
    return sorted(found, key=lambda d: (d.on, d.card.card_id))


def open_exposures() -> Iterable[Exposure]:
    return Exposure.objects.filter(card__binned=None).select_related("card__session").prefetch_related("card__captures")


def as_icalendar(dues: Iterable[Due]) -> bytes:
    """Whole-day events that any calendar takes; the same test keeps its events' identities."""
    from icalendar import Calendar, Event

    calendar = Calendar()
    calendar.add("prodid", "-//Gelvet//long tests//EN")
    calendar.add("version", "2.0")
    for due in dues:
        event = Event()
        event.add("uid", f"{due.card.card_id}-week-{due.week}@gelvet")
        event.add("dtstamp", datetime.now(UTC))
        event.add("dtstart", due.on)
        event.add("dtend", due.on + timedelta(days=1))
        event.add("summary", f"{due.card.card_id}: {due.what}")
        event.add("description", f"Session {due.card.session.name}, card {due.card.number}.")
        calendar.add_component(event)
    return bytes(calendar.to_ical())

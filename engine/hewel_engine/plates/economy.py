"""What a plate gives in a day, what a part costs, and from how many on another way of making it is cheaper.

Times s, money in the unit of the records.
"""

from dataclasses import dataclass

from hewel_engine.plates.batch import DAY

HOUR = 3600.0
TERM_DAYS = 28
"""Days over which a plate is started again whenever hands are there."""


@dataclass(frozen=True)
class Hands:
    """``hours`` a day when hands are there, in one stretch; ``needed`` to change a plate."""

    hours: float = 9.0
    needed: bool = True


def plates_per_day(ready_s: float, print_s: float, change_s: float, hands: Hands) -> float:
    """Plates that one machine finishes in a day. Where hands are needed, a plate that ends while nobody is there waits
    for the next morning.

    >>> plates_per_day(0, DAY / 4, 0, Hands(24)), plates_per_day(0, DAY / 4, 0, Hands(8))
    (4.0, 2.0)
    """
    if not hands.needed or hands.hours >= 24:
        return DAY / (ready_s + print_s + change_s)
    if hands.hours <= 0:
        return 0.0
    now, done, shift = 0.0, 0, hands.hours * HOUR
    while now < TERM_DAYS * DAY:
        end = now + ready_s + print_s
        if end % DAY > shift:
            end = (end // DAY + 1) * DAY
        done, now = done + 1, end + change_s
        if now % DAY > shift:  # the change ends after hours: the next plate begins in the morning
            now = (now // DAY + 1) * DAY
    return done * DAY / now


def ends_at_hand(ready_s: float, print_s: float, hands: Hands) -> bool:
    """Whether a plate that is started first thing ends while hands are there."""
    return not hands.needed or (ready_s + print_s) % DAY <= hands.hours * HOUR


@dataclass(frozen=True)
class Prices:
    """Of an hour of the machine and of hands, of a kg of plastic and a kWh; minutes of hands for a plate and a part;
    shares of plastic lost and of copies scrapped; ``hardware`` of a part. ``power`` W; None: not known.
    """

    machine_hour: float
    hand_hour: float
    plastic_kg: float
    plate_minutes: float
    part_minutes: float
    waste: float = 0.0
    scrap: float = 0.0
    hardware: float = 0.0
    power: float | None = None
    kwh: float | None = None


LINES = ("machine", "plastic", "hands", "energy", "hardware", "scrap")


def cost_of_part(prices: Prices, copies: int, grams: float, ready_s: float, print_s: float, change_s: float) -> dict:
    """Cost of one good part by its lines; ``energy`` None where it is not known."""
    hours = (ready_s + print_s + change_s) / HOUR
    lines = {
        "machine": prices.machine_hour * hours / copies,
        "plastic": grams * 1e-3 * (1 + prices.waste) * prices.plastic_kg,
        "hands": prices.hand_hour / 60 * (prices.plate_minutes / copies + prices.part_minutes),
        "energy": None,
        "hardware": prices.hardware,
    }
    if prices.power is not None and prices.kwh is not None:
        lines["energy"] = prices.power * 1e-3 * (ready_s + print_s) / HOUR * prices.kwh / copies
    whole = sum(v for v in lines.values() if v is not None)
    lines["scrap"] = whole / (1 - prices.scrap) - whole  # for every good part, 1/(1 − scrap) are made
    return lines | {"total": whole / (1 - prices.scrap)}


@dataclass(frozen=True)
class Way:
    """Another way of making a part: what is paid once, for each piece, for its assembly and stock; days until the
    first ones are there.
    """

    name: str
    once: float = 0.0
    piece: float = 0.0
    assembly: float = 0.0
    stock: float = 0.0
    days: float | None = None

    @property
    def each(self) -> float:
        return self.piece + self.assembly + self.stock

    def total(self, quantity: float) -> float:
        return self.once + quantity * self.each


def break_even(printed: float, other: Way) -> float | None:
    """Pieces from which the other way is cheaper than printing at ``printed`` each; None where it never is.

    >>> break_even(5.0, Way("moulded", 8000, 1.0)), break_even(5.0, Way("bought", 0, 6.0))
    (2000.0, None)
    """
    saved = printed - other.each
    if saved <= 0:
        return None
    return other.once / saved

"""Price lists from files and from a service: read whole, every fault told, then saved whole."""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from itertools import chain
from typing import Any

from django.contrib.auth.base_user import AbstractBaseUser
from django.core.exceptions import ValidationError
from django.db import transaction

from engine.typed_numbers import NotANumber
from kit.constraints import Fact
from kit.csv_cells import NoTable, as_date, lines_of, plain_text, table_text
from prices.amounts import price_in
from prices.models import Offer, PriceList, key_of

MOST_BYTES = 2_000_000
MOST_ROWS = 20_000
FAULTS_TOLD = 20
COLUMNS = ("maker", "name", "price", "currency", "shop", "on")
NEEDED = ("maker", "name", "price")


class BadList(ValueError):
    """A price list with faults, a sentence each; nothing of it is saved.

    `good` are the offers of its other lines.
    """

    def __init__(self, *faults: str, good: Sequence[Offer] = ()) -> None:
        more = len(faults) - FAULTS_TOLD
        self.faults = [*faults[:FAULTS_TOLD], *([f"And {more} more."] if more > 0 else [])]
        self.good = good
        super().__init__(" ".join(self.faults))


@dataclass(frozen=True)
class Usual:
    """What holds where a row does not say it: the shop, the day and the currency."""

    shop: str
    on: date
    currency: str


def read_csv(data: bytes, usual: Usual) -> list[Offer]:
    """The offers in a table with a header; each belongs to a list that is not saved yet.

    Raises :class:`BadList`.
    """
    if len(data) > MOST_BYTES:
        raise BadList("The file is larger than 2 MB, which no price list needs.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    if "\0" in text:
        raise BadList("The file is no text; save it as CSV.")
    try:
        return read_rows(list(_rows(text)), usual)
    except NoTable as error:
        raise BadList(str(error)) from error


def _rows(text: str) -> Iterator[tuple[str, dict[str, str]]]:
    """The rows that are not blank, each with the words for its place."""
    lines = lines_of(text)
    header = [name.strip().lower() for name in next(lines, [])]
    lacking = [name for name in NEEDED if name not in header]
    if lacking:
        raise BadList(
            f"The first line must name the columns; it lacks {', '.join(lacking)}. "
            f"Known are {', '.join(COLUMNS)}."
        )
    for number, cells in enumerate(lines, start=2):
        if any(cell.strip() for cell in cells):
            yield f"Line {number}", dict(zip(header, cells, strict=False))


def read_rows(rows: Sequence[tuple[str, Mapping[str, Any]]], usual: Usual) -> list[Offer]:
    """The offers in `rows`, each with the words for its place. Raises :class:`BadList`."""
    if not rows:
        raise BadList("There are no prices in it.")
    if len(rows) > MOST_ROWS:
        raise BadList(f"It has more than {MOST_ROWS:,} prices, which no shop has of cards.")
    offers, faults, seen = [], [], set()
    lists: dict[tuple[str, date], PriceList] = {}
    for place, row in rows:
        try:
            offer = _offer(row, usual, lists)
        except ValidationError as error:
            faults.append(f"{place}: {' '.join(error.messages)}")
            continue
        of_list = offer.price_list
        key = of_list.shop, of_list.on, key_of(offer.maker, offer.name)
        if key in seen:
            faults.append(f"{place}: The {offer.maker} {offer.name} is listed twice.")
            continue
        seen.add(key)
        offers.append(offer)
    if faults:
        raise BadList(*faults, good=offers)
    return offers


def _offer(row: Mapping[str, Any], usual: Usual, lists: dict[tuple[str, date], PriceList]) -> Offer:
    said = {name: plain_text(str(row.get(name) or "").strip()) for name in COLUMNS}
    if any("\0" in text for text in said.values()):
        raise ValidationError("It has a character 0 in it, which no text has.")
    on = as_date(said["on"]) if said["on"] else usual.on
    if not isinstance(on, date):
        raise ValidationError(f"“{said['on'][:20]}” is no day, as 2026-11-25 is.")
    try:
        price, named = price_in(said["price"])
    except NotANumber as error:
        raise ValidationError(str(error)) from error
    currency = said["currency"].upper()
    if named and currency not in ("", named):
        raise ValidationError(f"The price is in {named}, the currency beside it is {currency}.")
    shop = said["shop"] or usual.shop
    price_list = lists.setdefault((shop, on), PriceList(shop=shop, on=on))
    price_list.clean_fields(exclude=["owner"])
    offer = Offer(
        price_list=price_list,
        maker=said["maker"],
        name=said["name"],
        price=price,
        currency=named or currency or usual.currency,
    )
    offer.clean_fields(exclude=["price_list"])
    for constraint in Offer._meta.constraints:
        if isinstance(constraint, Fact):
            constraint.validate(Offer, offer)
    return offer


def list_text(offers: Iterable[Offer]) -> str:
    """`offers`, with their lists, as CSV that `read_csv` takes."""
    rows = (
        (one.maker, one.name, one.price, one.currency, one.price_list.shop, one.price_list.on)
        for one in offers
    )
    return "".join(table_text(chain([COLUMNS], rows)))


@transaction.atomic
def save(offers: Iterable[Offer], owner: AbstractBaseUser | None) -> list[PriceList]:
    """Saves `offers` on lists of the owner's, in place of what these lists said of the same cards.

    Without an owner they are of the sample.
    """
    by_list: dict[tuple[str, date], list[Offer]] = defaultdict(list)
    for offer in offers:
        by_list[offer.price_list.shop, offer.price_list.on].append(offer)
    saved = []
    for (shop, on), of_list in sorted(by_list.items()):  # always in one order: no deadlocks
        stored, _ = PriceList.objects.get_or_create(
            owner_id=owner.pk if owner else None, shop=shop, on=on
        )
        for offer in of_list:
            offer.price_list = stored
            offer.card_key = key_of(offer.maker, offer.name)
        Offer.objects.bulk_create(
            sorted(of_list, key=lambda offer: offer.card_key),
            update_conflicts=True,
            update_fields=["maker", "name", "price", "currency"],
            unique_fields=["price_list", "card_key"],
        )
        saved.append(stored)
    return saved

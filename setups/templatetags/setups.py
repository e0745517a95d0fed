"""Links to set-ups; `setups.keys` says how they are written."""

from django import template
from django.urls import reverse

from kit.fits import SlotFit
from kit.models import Body
from setups import keys

register = template.Library()
register.filter("as_pin", keys.as_pin)
register.filter("as_before", keys.as_before)


@register.filter
def on_desk(shown: Body | SlotFit) -> str:
    """The Desk with that body, or with that card in that slot of its body."""
    if isinstance(shown, Body):
        query = keys.query_of(shown.slug)
    else:
        slot = shown.slot
        query = keys.query_of(slot.body.slug, {slot.number: shown.card.slug})
    return f"{reverse('desk')}?{query}"

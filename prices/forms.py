"""The forms of prices and rates."""

from typing import Any

from django import forms
from django.utils.timezone import localdate

from kit.forms import PriceField, form_field
from prices.lists import Usual
from prices.models import ExchangeRate, Offer, PriceList


class CurrencyField(forms.CharField):
    """Three letters, whatever their capitals."""

    def __init__(self, **options: Any) -> None:
        widget = forms.TextInput(attrs={"size": 4, "autocapitalize": "characters"})
        super().__init__(max_length=3, min_length=3, widget=widget, **options)

    def clean(self, value: Any) -> str:
        cleaned: str = super().clean(str(value or "").strip().upper())
        return cleaned


class ListForm(forms.Form):
    """A price list in a file, and what holds for rows that do not say it themselves."""

    file = forms.FileField(
        label="File (CSV)",
        widget=forms.FileInput(attrs={"accept": ".csv,text/csv"}),
    )
    shop = forms.CharField(max_length=60, label="Shop")
    on = forms.DateField(
        label="Day", widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )
    currency = CurrencyField(label="Currency", initial="EUR")

    def usual(self) -> Usual:
        """What holds where a row does not say it."""
        given = self.cleaned_data
        return Usual(given["shop"], given["on"], given["currency"])


class NoteForm(forms.ModelForm):
    """The price of one kind of card, noted by hand today."""

    price = PriceField(label="Price", min_value=0, max_digits=8, decimal_places=2)
    currency = CurrencyField()

    class Meta:
        model = Offer
        fields = ["maker", "name", "price", "currency"]

    def offer(self) -> Offer:
        """The offer, on the list of what is noted by hand today."""
        offer: Offer = self.save(commit=False)
        offer.price_list = PriceList(shop="", on=localdate())
        return offer


class RateForm(forms.ModelForm):
    """What one currency is worth in another."""

    currency = CurrencyField(label="1 of")
    against = CurrencyField(label="in")

    class Meta:
        model = ExchangeRate
        formfield_callback = form_field
        fields = ["currency", "rate", "against", "on"]
        labels = {"rate": "is", "on": "seen on"}

"""The forms of prices and rates."""

from decimal import Decimal
from typing import Any

from django import forms
from django.utils.timezone import localdate

from engine.typed_numbers import NotANumber
from kit.form_fields import form_field
from prices.amounts import price_in
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


class PriceField(forms.CharField):
    """A price as it is typed; cleaned, the price and the currency that it names, or nothing."""

    def __init__(self, **options: Any) -> None:
        widget = forms.TextInput(attrs={"inputmode": "decimal", "autocomplete": "off"})
        super().__init__(max_length=40, widget=widget, **options)

    def clean(self, value: Any) -> tuple[Decimal, str]:
        try:
            return price_in(super().clean(value))
        except NotANumber as error:
            raise forms.ValidationError(str(error)) from error


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

    price = PriceField(label="Price")
    currency = CurrencyField(required=False)

    class Meta:
        model = Offer
        fields = ["maker", "name", "price", "currency"]

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or {}
        if "price" in cleaned:
            cleaned["price"], named = cleaned["price"]
            cleaned["currency"] = named or cleaned.get("currency")
        if not cleaned.get("currency") and "currency" not in self.errors:
            self.add_error("currency", "Say in which currency, as in EUR.")
        return cleaned

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

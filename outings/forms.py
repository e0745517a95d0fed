"""The forms of an outing."""

from django import forms
from django.contrib.auth.base_user import AbstractBaseUser

from kit.form_fields import form_field
from outings.models import Outing
from pages.refusals import Refused


class OutingForm(forms.ModelForm):
    """Its name and notes."""

    class Meta:
        model = Outing
        fields = ["name", "notes"]
        formfield_callback = form_field
        labels = {"name": "Name", "notes": "Notes"}

    def keep_for(self, owner: AbstractBaseUser, *, frames: int) -> Outing:
        """A new outing of so many frames, saved. Raises Refused where there is no room for it."""
        if words := Outing.objects.made_by(owner).no_room_words(frames):
            raise Refused([words])
        self.instance.owner_id = owner.pk
        self.instance.save()
        outing: Outing = self.instance
        return outing

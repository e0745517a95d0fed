"""What is tidied up, and that nothing else is."""

from datetime import timedelta
from random import Random

from django.contrib.auth import get_user_model
from django.contrib.sessions.models import Session
from django.core.cache import cache
from django.db import connection
from django.test import TestCase
from django.utils import timezone

from kit.models import Change, PendingImport, Revision
from kit.tests import builders
from ondata.upkeep import KEPT_DAYS, prune


class Pruning(TestCase):
    def test_what_is_old_goes_and_what_is_not_stays(self) -> None:
        ann = get_user_model().objects.create(email="ann@example.org")
        card = builders.saved(builders.card(owner=ann))
        made = {
            Session: ("expire_date", 0, {"session_key": "{}", "session_data": ""}),
            PendingImport: ("made_at", KEPT_DAYS["imports"], {
                "owner": ann, "entries": [], "entry_count": 0, "row_count": 0}),
            Revision: ("made_at", KEPT_DAYS["revisions"], {
                "owner": ann, "item": card, "version": 1}),
        }  # fmt: skip
        for model, (field, days, values) in made.items():
            for age in (-1, 1):
                own = {key: age if value == "{}" else value for key, value in values.items()}
                at = timezone.now() - timedelta(days=days + age)
                row = model.objects.create(**own | {field: at})
                model.objects.filter(pk=row.pk).update(**{field: at})
        cache.set("fresh", 1)
        cache.set("stale", 1)
        with connection.cursor() as cursor:
            stale = "UPDATE cache SET expires = now() - interval '1 day' WHERE cache_key LIKE %s"
            cursor.execute(stale, ["%stale"])
        prune.func(timestamp=0)
        self.assertEqual([1] * len(made), [model.objects.count() for model in made])
        with connection.cursor() as cursor:
            cursor.execute("SELECT cache_key FROM cache")
            self.assertEqual([(":1:fresh",)], cursor.fetchall())

    def test_no_version_of_a_kit_comes_twice_however_often_changes_are_pruned(self) -> None:
        random = Random(1)
        visitors = [get_user_model().objects.create(email=f"{n}@example.org") for n in range(2)]
        Change.objects.all().delete()
        seen = {visitor: [Change.version_for(visitor)] for visitor in visitors}
        for _ in range(60):
            owner = random.choice([None, *visitors])
            Change.objects.create(owner_pk=owner and owner.pk)
            if random.random() < 0.3:
                Change.objects.superseded().delete()
            for visitor in visitors:
                version = Change.version_for(visitor)
                if owner in (None, visitor):
                    self.assertNotIn(version, seen[visitor])
                seen[visitor].append(version)

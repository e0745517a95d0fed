"""What the bench leaves to the background worker."""

from django.contrib.auth import get_user_model
from django.http import HttpRequest
from procrastinate.contrib.django import app

from bench.learning import BodyLearning
from kit.models import Body
from pages import background


def wait_for(request: HttpRequest, learning: BodyLearning) -> None:
    """Has the report worked out while the page waits for it."""
    key = learning.key
    background.wait_for(key)
    background.begin(
        learn, key, f"bench:{background.visitor_of(request)}",
        account=request.user.pk, body=learning.body.pk,
    )  # fmt: skip


@app.task(name="learn")
def learn(account: int, body: int) -> None:
    """Learns a body from the runs of an account, while anybody waits for it."""
    visitor = get_user_model().objects.filter(pk=account).first()
    found = Body.objects.visible_to(visitor).filter(pk=body).first() if visitor else None
    if visitor and found:
        BodyLearning.of(found, visitor).work_out()

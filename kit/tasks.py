"""What files of kits leave to the background worker."""

from contextlib import AbstractContextManager

from procrastinate import JobContext
from procrastinate.contrib.django import app

from kit import importing
from kit.models import ImportState, PendingImport
from pages import background

ROWS_A_SECOND = 1_000  # that are checked, or saved


def continue_import(pending: PendingImport) -> None:
    """Has a file checked, or saved, whichever is to be done next: at once, if that is quick."""
    act = save if pending.state == ImportState.SAVING else check
    if importing.is_long(pending):
        key, owner = f"{act.name}:{pending.pk}", pending.owner_id
        about_s = pending.row_count / ROWS_A_SECOND
        background.begin(act, key, background.account(owner), about_s, pk=pending.pk)
    elif act is save:
        importing.save(pending.pk)
    else:
        importing.check_next(pending)


@app.task(name="check-import", pass_context=True)
def check(context: JobContext, pk: int) -> None:
    """Checks a file, thousand rows by thousand rows, until it is done or dropped."""
    pending = PendingImport.objects.filter(pk=pk, state=ImportState.RECEIVED).first()
    if pending is None:
        return
    with _told_where_it_fails(pk):
        checking = importing.Check(pending)
        while not pending.checked and not context.should_abort() and checking.next():
            pass


@app.task(name="save-import")
def save(pk: int) -> None:
    """Saves a file, all of it or nothing."""
    with _told_where_it_fails(pk):
        importing.save(pk)


def _told_where_it_fails(pk: int) -> AbstractContextManager[None]:
    """Marks a file that can't be worked on."""
    file = PendingImport.objects.filter(pk=pk)
    return background.noted_where_it_fails(lambda: file.update(state=ImportState.FAILED))

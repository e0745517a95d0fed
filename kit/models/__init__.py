"""Bodies, cards and readers: what a burst and a copy depend on, and whose they are."""

from kit.models.body import (
    AcceptedForm,
    Body,
    FrameRate,
    RecordedFile,
    RecordingFormat,
    ShutterMode,
    Slot,
    SlotArrangement,
    TestedCard,
)
from kit.models.card import Card, CardEvent, CardLogEntry, CardState
from kit.models.change import Change
from kit.models.figures import EstimatedFigure, LearntCoupling, LearntFigure, LearntSpeed
from kit.models.pending_import import ImportState, PendingImport
from kit.models.reader import Reader, ReadForm
from kit.models.revision import Revision
from kit.models.shared import KitItem, Owned, Source, Visitor

__all__ = [
    "AcceptedForm",
    "Body",
    "Card",
    "CardEvent",
    "CardLogEntry",
    "CardState",
    "Change",
    "EstimatedFigure",
    "FrameRate",
    "ImportState",
    "KitItem",
    "LearntCoupling",
    "LearntFigure",
    "LearntSpeed",
    "Owned",
    "PendingImport",
    "ReadForm",
    "Reader",
    "RecordedFile",
    "RecordingFormat",
    "Revision",
    "ShutterMode",
    "Slot",
    "SlotArrangement",
    "Source",
    "TestedCard",
    "Visitor",
]

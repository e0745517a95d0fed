"""Verdicts on cards in slots, and minutes of copying."""

from unittest import TestCase

from engine.copying import CopyReader, Port, copying
from engine.fit import Accepted, FitCard, FitSlot, Verdict, fit
from engine.standards import Bus, Form, Standard

SD_SLOT = {Form.SD: Accepted(Bus.UHS_II)}
XQD_SLOT = {
    Form.XQD: Accepted(Bus.XQD_1),
    Form.CFEXPRESS_B: Accepted(Bus.XQD_1, from_firmware="2.0"),
}


def card(form: Form = Form.SD, bus: Bus = Bus.UHS_II, capacity_gb: float = 128,
         sustained_mb_s: float | None = 200) -> FitCard:  # fmt: skip
    return FitCard(form=form, bus=bus, capacity_gb=capacity_gb, sustained_mb_s=sustained_mb_s)


CFEXPRESS = card(Form.CFEXPRESS_B, Bus.PCIE_3_X2, 512, 400)


class Fitting(TestCase):
    def test_verdicts(self) -> None:
        for words, held, slot, verdict, usable_mb_s in (
            ("its own slot", card(), FitSlot(accepts=SD_SLOT), Verdict.MADE_FOR_IT, 200),
            ("wrong shape", CFEXPRESS, FitSlot(accepts=SD_SLOT), Verdict.DOES_NOT_FIT, None),
            ("a slower slot", card(), FitSlot(accepts={Form.SD: Accepted(Bus.UHS_I)}),
             Verdict.SPEED_WASTED, 104),
            ("just under a tenth lost", card(), FitSlot(accepts=SD_SLOT, cap_mb_s=181),
             Verdict.MADE_FOR_IT, 181),
            ("a tenth lost and more", card(), FitSlot(accepts=SD_SLOT, cap_mb_s=179),
             Verdict.SPEED_WASTED, 179),
            ("a faster bus, speed unknown", card(bus=Bus.SD_EXPRESS, sustained_mb_s=None),
             FitSlot(accepts=SD_SLOT), Verdict.SPEED_WASTED, None),
            ("too large for the body", card(),
             FitSlot(accepts=SD_SLOT, newest_standard=Standard.SDHC), Verdict.TEST_FIRST, 200),
            ("an older standard", card(capacity_gb=16),
             FitSlot(accepts=SD_SLOT, newest_standard=Standard.SDXC), Verdict.MADE_FOR_IT, 200),
            ("SDUC, nothing noted", card(capacity_gb=4000), FitSlot(accepts=SD_SLOT),
             Verdict.TEST_FIRST, 200),
            ("old firmware", CFEXPRESS, FitSlot(accepts=XQD_SLOT, firmware="1.10"),
             Verdict.AFTER_FIRMWARE, 400),
            ("ten is after nine", CFEXPRESS,
             FitSlot(accepts={Form.CFEXPRESS_B: Accepted(Bus.XQD_1, "1.9")}, firmware="1.10"),
             Verdict.MADE_FOR_IT, 400),
            ("new firmware, off the list", CFEXPRESS,
             FitSlot(accepts=XQD_SLOT, firmware="2.1", on_tested_list=False),
             Verdict.TEST_FIRST, 400),
            ("new firmware, on the list", CFEXPRESS,
             FitSlot(accepts=XQD_SLOT, firmware="2.1", on_tested_list=True),
             Verdict.MADE_FOR_IT, 400),
            ("firmware not noted", CFEXPRESS, FitSlot(accepts=XQD_SLOT), Verdict.TEST_FIRST, 400),
            ("off the list of its own form", card(),
             FitSlot(accepts=SD_SLOT, on_tested_list=False), Verdict.MADE_FOR_IT, 200),
        ):  # fmt: skip
            with self.subTest(words):
                found = fit(held, slot)
                self.assertEqual((verdict, usable_mb_s), (found.verdict, found.usable_mb_s))
                self.assertTrue(found.reasons)

    def test_microsd_goes_in_by_an_adapter(self) -> None:
        found = fit(card(Form.MICRO_SD), FitSlot(accepts=SD_SLOT))
        self.assertEqual((Verdict.MADE_FOR_IT, True), (found.verdict, found.adapter))

    def test_a_faster_card_or_slot_is_never_less_usable(self) -> None:
        speeds = [10, 90, 104, 105, 250, 312, 900]
        for bus in (Bus.UHS_I, Bus.UHS_II):
            slot = FitSlot(accepts={Form.SD: Accepted(bus)}, cap_mb_s=260)
            usable = [fit(card(sustained_mb_s=mb_s), slot).usable_mb_s or 0 for mb_s in speeds]
            self.assertEqual(sorted(usable), usable)


class CopyingCards(TestCase):
    def test_the_narrowest_part_and_the_minutes(self) -> None:
        for words, read_mb_s, reader, mb_s, narrowest in (
            ("card", 90, CopyReader(bus=Bus.UHS_II, port=Port.USB_5), 90, "the card"),
            ("bus", 280, CopyReader(bus=Bus.UHS_I, port=Port.USB_5), 104, "the bus, UHS-I"),
            ("matching reader", 170,
             CopyReader(bus=Bus.UHS_I, port=Port.USB_5, matches=True), 170, "the card"),
            ("reader", 280, CopyReader(bus=Bus.UHS_II, port=Port.USB_5, most_mb_s=150), 150,
             "the reader"),
            ("port", 280, CopyReader(bus=Bus.UHS_II, port=Port.USB_2), 53, "the port, USB 2"),
            ("nothing printed", None, CopyReader(bus=Bus.UHS_II, port=Port.BUILT_IN, matches=True),
             312, "the bus, UHS-II"),
        ):  # fmt: skip
            with self.subTest(words):
                found = copying(read_mb_s, Bus.UHS_II, reader)
                self.assertEqual((mb_s, narrowest), (found.mb_s, found.narrowest))
        self.assertEqual(
            10, copying(100, Bus.UHS_II, CopyReader(bus=Bus.UHS_II, port=Port.USB_5)).minutes(60)
        )

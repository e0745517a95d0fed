"""Verdicts on cards in slots, and minutes of copying."""

from dataclasses import replace
from unittest import TestCase

from engine.cards.compatibility import Accepted, FitCard, FitSlot, Verdict, fit, is_at_least
from engine.cards.copy_time import RATE_OF_PORT, CopyReader, Port, copying
from engine.cards.standards import Bus, Form, Standard

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
        for bus, mb_s, verdict in (
            (Bus.UHS_I, 90, Verdict.MADE_FOR_IT),
            (Bus.UHS_II, 200, Verdict.SPEED_WASTED),
        ):
            held = card(Form.MICRO_SD, bus, sustained_mb_s=mb_s)
            found = fit(held, FitSlot(accepts=SD_SLOT))
            self.assertEqual((verdict, True, Bus.UHS_I), (found.verdict, found.adapter, found.bus))

    def test_an_ordinary_adapter_has_the_contacts_of_uhs_i_only(self) -> None:
        slot = FitSlot(accepts={Form.SD: Accepted(Bus.UHS_II)})
        found = fit(card(Form.MICRO_SD, sustained_mb_s=200), slot)
        self.assertEqual(104, found.usable_mb_s)
        self.assertIn("contacts of UHS-I only", " ".join(found.reasons))

    def test_a_microsd_slot_takes_microsd_without_one(self) -> None:
        slot = FitSlot(accepts={Form.MICRO_SD: Accepted(Bus.UHS_II)})
        found = fit(card(Form.MICRO_SD, sustained_mb_s=200), slot)
        self.assertEqual((False, 200), (found.adapter, found.usable_mb_s))
        self.assertIs(Verdict.DOES_NOT_FIT, fit(card(Form.SD), slot).verdict)

    def test_a_newer_capacity_standard_may_mount_or_never_does(self) -> None:
        for capacity_gb, newest, verdict in (
            (16, Standard.SD, Verdict.DOES_NOT_FIT),
            (128, Standard.SDHC, Verdict.TEST_FIRST),
            (4_000, Standard.SDXC, Verdict.DOES_NOT_FIT),
            (2_048, Standard.SDXC, Verdict.MADE_FOR_IT),
            (16, Standard.SDXC, Verdict.MADE_FOR_IT),
        ):
            slot = FitSlot(accepts={Form.SD: Accepted(Bus.UHS_II)}, newest_standard=newest)
            with self.subTest(capacity_gb=capacity_gb, newest=newest):
                self.assertIs(verdict, fit(card(Form.SD, capacity_gb=capacity_gb), slot).verdict)

    def test_firmware_is_compared_number_by_number(self) -> None:
        for firmware, needed, enough in (
            ("2", "2.0", True), ("2.0", "2", True), ("1.10", "1.9", True), ("1.9", "2", False),
            ("v3.01", "3.1", True), ("C 1.10", "1.9a", True), ("2.0", "2.0.1", False),
        ):  # fmt: skip
            self.assertIs(enough, is_at_least(firmware, needed), (firmware, needed))

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
            ("port", 280, CopyReader(bus=Bus.UHS_II, port=Port.USB_2), 40, "the port, USB 2"),
            ("nothing printed", None, CopyReader(bus=Bus.UHS_II, port=Port.BUILT_IN, matches=True),
             312, "the bus, UHS-II"),
        ):  # fmt: skip
            with self.subTest(words):
                found = copying(read_mb_s, Bus.UHS_II, reader)
                self.assertEqual((mb_s, narrowest), (found.mb_s, found.narrowest))
        self.assertEqual(
            10, copying(100, Bus.UHS_II, CopyReader(bus=Bus.UHS_II, port=Port.USB_5)).minutes(60)
        )

    def test_ports_carry_what_their_line_codes_leave(self) -> None:
        lane_10, lane_20 = (mb_s * 128 / 132 / 8 for mb_s in (10_000, 20_000))
        for port, mb_s in {
            Port.USB_2: 13 * 512 * 8_000 / 1e6, Port.USB_5: 5_000 * 8 / 10 / 8,
            Port.USB_10: lane_10, Port.USB_20: 2 * lane_10, Port.USB_40: 2 * lane_20,
        }.items():  # fmt: skip
            self.assertEqual(round(mb_s), RATE_OF_PORT[port].line_mb_s)

    def test_no_port_reaches_what_its_line_carries_and_minutes_are_a_range(self) -> None:
        for port, rate in RATE_OF_PORT.items():
            self.assertLess(rate.practical_mb_s, rate.line_mb_s, port)
        reader = CopyReader(bus=Bus.UHS_II, port=Port.USB_5)
        at_best = copying(100, Bus.UHS_II, reader)
        measured = copying(100, Bus.UHS_II, replace(reader, most_mb_s=90))
        self.assertEqual((False, True), (at_best.measured, measured.measured))
        self.assertAlmostEqual(12.5, at_best.most_minutes(60))
        self.assertLess(measured.most_minutes(60) / measured.minutes(60), 1.2)

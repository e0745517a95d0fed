"""Which bus a card and a slot agree on, and what is left of the card's speed."""

from unittest import TestCase

from engine.cards.standards import (
    BUSES_OF_FORM,
    CEILING_MB_S,
    Bus,
    Form,
    buses_of_class,
    effective_write,
    forms_of_class,
    shared_bus,
)


class Buses(TestCase):
    def test_card_and_slot_fall_back_to_what_both_speak(self) -> None:
        for card, slot, shared in (
            (Bus.UHS_II, Bus.UHS_I, Bus.UHS_I),
            (Bus.UHS_I, Bus.UHS_II, Bus.UHS_I),
            (Bus.SD_EXPRESS, Bus.SD_EXPRESS, Bus.SD_EXPRESS),
            (Bus.SD_EXPRESS, Bus.UHS_II, Bus.UHS_I),
            (Bus.SD_EXPRESS, Bus.SD_HIGH_SPEED, Bus.SD_HIGH_SPEED),
            (Bus.PCIE_4_X2, Bus.XQD_1, Bus.XQD_1),
        ):
            with self.subTest(card=card, slot=slot):
                self.assertEqual(shared, shared_bus(card, slot))

    def test_every_bus_has_a_ceiling_and_a_form(self) -> None:
        self.assertEqual(set(Bus), set(CEILING_MB_S))
        self.assertEqual(set(Bus), {bus for buses in BUSES_OF_FORM.values() for bus in buses})

    def test_classes_need_the_bus_and_the_form_that_define_them(self) -> None:
        for speed_class, slowest in (("C6", Bus.SD_DEFAULT), ("C10", Bus.SD_HIGH_SPEED),
                                     ("V6", Bus.SD_HIGH_SPEED), ("V30", Bus.UHS_I),
                                     ("V60", Bus.UHS_II), ("E150", Bus.SD_EXPRESS)):  # fmt: skip
            self.assertEqual(slowest, buses_of_class(speed_class)[0])
        for speed_class, form in {
            "VPG65": Form.COMPACT_FLASH,
            "VPG130": Form.CFAST_2,
            "VPG400": Form.CFEXPRESS_A,
            "V30": Form.MICRO_SD,
        }.items():
            self.assertIn(form, forms_of_class(speed_class))
        self.assertNotIn(Form.CFEXPRESS_B, forms_of_class("VPG65"))

    def test_the_narrowest_of_card_slot_and_bus_sets_the_speed(self) -> None:
        for card_mb_s, cap_mb_s, slot_bus, effective in (
            (222, 250, Bus.UHS_II, (222, "card")),
            (280, 250, Bus.UHS_II, (250, "slot")),
            (280, None, Bus.UHS_II, (280, "card")),
            (280, 250, Bus.UHS_I, (104, "bus")),
        ):
            with self.subTest(effective):
                self.assertEqual(
                    effective, effective_write(card_mb_s, cap_mb_s, Bus.UHS_II, slot_bus)
                )

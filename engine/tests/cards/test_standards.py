"""Which bus a card and a slot agree on, and what is left of the card's speed."""

from unittest import TestCase

from engine.cards.standards import (
    BUSES_OF_FORM,
    CEILING_MB_S,
    EXPRESS_BUSES,
    GUARANTEED_MB_S,
    Bus,
    Form,
    Standard,
    buses_of_class,
    effective_write,
    forms_of_class,
    kind_of_card,
    shared_bus,
    standard_of,
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

    def test_ceilings_follow_from_clocks_lanes_and_line_codes(self) -> None:
        """MHz x bits / 8, or GT/s x code / 8; a lane of PCIe 3 is 1,000 MB/s to CFexpress."""
        lane_2, lane_3 = 5_000 * 8 / 10 / 8, 8_000 * 128 / 130 / 8
        derived = {
            Bus.SD_DEFAULT: 25 * 4 / 8, Bus.SD_HIGH_SPEED: 50 * 4 / 8, Bus.UHS_I: 208 * 4 / 8,
            Bus.UHS_III: 2 * CEILING_MB_S[Bus.UHS_II], Bus.SD_EXPRESS: lane_3,
            Bus.SD_EXPRESS_2: 2 * lane_3, Bus.SD_EXPRESS_4: 4 * lane_3, Bus.PCIE_3_X1: 1_000,
            Bus.PCIE_3_X2: 2_000, Bus.PCIE_4_X1: 2_000, Bus.PCIE_4_X2: 4_000, Bus.PCIE_3_X4: 4_000,
            Bus.PCIE_4_X4: 8_000, Bus.XQD_1: lane_2, Bus.XQD_2: 2 * lane_2, Bus.UHS_II: 312,
            Bus.UDMA_4: 66, Bus.UDMA_5: 100, Bus.UDMA_6: 133, Bus.UDMA_7: 167,
            Bus.SATA_2: 3_000 * 8 / 10 / 8, Bus.SATA_3: 6_000 * 8 / 10 / 8,
        }  # fmt: skip
        for bus, mb_s in derived.items():
            rounded = 2 if bus in EXPRESS_BUSES else 0  # as their standard prints them
            self.assertAlmostEqual(mb_s, CEILING_MB_S[bus], delta=rounded)
        self.assertEqual(set(Bus), set(derived))

    def test_a_bus_that_is_called_after_its_form_is_not_said_twice(self) -> None:
        for form, bus, said in (
            (Form.SD, Bus.UHS_II, "SD, UHS-II"), (Form.XQD, Bus.XQD_1, "XQD"),
            (Form.XQD, Bus.XQD_2, "XQD 2"),
        ):  # fmt: skip
            self.assertEqual(said, kind_of_card(form, bus))

    def test_a_card_is_of_the_first_standard_that_has_room_for_it(self) -> None:
        for largest_gb, standard in ((2, Standard.SD), (32, Standard.SDHC),
                                     (round(2 * 2**40 / 1e9), Standard.SDXC)):  # fmt: skip
            self.assertEqual(standard, standard_of(largest_gb))
            self.assertNotEqual(standard, standard_of(largest_gb + 1))
        self.assertEqual(Standard.SDUC, standard_of(128_000))

    def test_a_class_guarantees_the_number_in_its_name_and_uhs_classes_ten_times_it(self) -> None:
        for speed_class, mb_s in GUARANTEED_MB_S.items():
            number = int(speed_class.strip("CUVEPG"))
            self.assertEqual(10 * number if speed_class[0] == "U" else number, mb_s)

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

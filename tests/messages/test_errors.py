import importlib
import unittest

from finchwort.core.base.errors import ChoiceError, CoreError, OutOfRangeError
from finchwort.core.surveys import Survey
from finchwort.messages.errors import sentence
from finchwort.messages.inputs import field_errors

AREAS = ("access", "base", "compensation", "diagnosis", "first_layer", "formats", "levelling", "machine")
AREAS += ("printers", "probing", "surveys", "tramming", "visits")
ALL = {
    code: text
    for area in AREAS
    for code, text in importlib.import_module(f"finchwort.messages.{area}").ERRORS.items()
}


class SentenceTest(unittest.TestCase):
    def test_an_error_carries_a_code_and_values_and_the_message_makes_the_sentence(self):
        with self.assertRaises(OutOfRangeError) as caught:
            Survey([0, 100, 50], [0, 0, 100], [0.0, 0.1, 250.0])
        error = caught.exception
        self.assertEqual(error.code, "surveys.height_mm_more_any")
        self.assertEqual(error.values, {"worst": 250.0})
        self.assertEqual(
            sentence(error), "A height of 250 mm is more than any bed shows. Are these micrometres?"
        )
        self.assertIn("worst=250.0", str(error))

    def test_what_is_no_error_of_the_core_says_itself(self):
        self.assertEqual(sentence(RuntimeError("The line is gone.")), "The line is gone.")

    def test_a_code_nobody_wrote_a_sentence_for_does_not_pass(self):
        with self.assertRaises(KeyError):
            sentence(ChoiceError("surveys.never_written"))

    def test_every_sentence_is_one(self):
        for code, text in ALL.items():
            with self.subTest(code):
                self.assertRegex(code, r"^[a-z_]+\.[a-z0-9_]+$")
                self.assertRegex(text, r"([.?!]|\}|[.?!] Start farther\.)$")
                self.assertTrue(text[0].isupper() or text[0] in "{0123456789", text)

    def test_values_do_not_get_in_the_way_of_the_code(self):
        error = CoreError("printers.refused_field", field="x", message="y", code="z")
        self.assertEqual((error.code, error.values["code"]), ("printers.refused_field", "z"))


class FieldTest(unittest.TestCase):
    def test_the_kind_of_several_is_no_place_in_the_input(self):
        told = field_errors(
            [
                {"loc": ("job", "heat", "bed"), "type": "float_parsing"},
                {"loc": ("screws", 0, "x"), "type": "less_than_equal", "ctx": {"le": 5000.0}},
                {"loc": (), "type": "something new"},
            ]
        )
        self.assertEqual(
            [(error.field, error.message) for error in told],
            [
                ("job.bed", "This must be a number."),
                ("screws.0.x", "This must be at most 5000."),
                ("body", "This is not understood."),
            ],
        )

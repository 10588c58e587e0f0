"""Formulas in the language of shaders: the same arithmetic, and nothing that is not shared."""

import ast
import math
import re
import unittest
from pathlib import Path

import numpy as np

from cenote_core.surfaces import formulas, glsl, wind_formulas

RNG = np.random.Generator(np.random.Philox(12))


def as_python(module, text):
    """A translated function, turned back by its grammar alone."""
    head, body = text.split("{", 1)
    name = re.match(r"(?:float|vec3) (\w+)\(", head)[1]
    args = re.findall(r"(?:float|vec3) (\w+)", head[len(name) :].split("(", 1)[1])
    lines = [re.sub(r"^(?:float|vec3) ", "", line.strip().rstrip(";}")) for line in body.split("\n")]
    source = f"def {name}({', '.join(args)}):\n" + "\n".join(f"  {line}" for line in lines if line)
    spaces = {"min": min, "max": max, "sin": math.sin, "sqrt": math.sqrt, **glsl.constants(module)}
    exec(source, spaces)
    return spaces[name], len(args)


class Translation(unittest.TestCase):
    def test_every_formula_says_the_same_in_both_languages(self):
        for module, least in ((formulas, 15), (wind_formulas, 8)):
            found = re.findall(r"((?:float|vec3) \w+\([^)]*\) \{.*?\n\})", glsl.translated(module), re.S)
            self.assertGreaterEqual(len(found), least)
            for part in found:
                function, count = as_python(module, part)
                original = getattr(module, function.__name__)
                for values in RNG.random((50, count)):
                    self.assertEqual(function(*values), original(*values), function.__name__)

    def test_what_the_languages_do_not_share_is_refused(self):
        for text in ("a ** 2", "a if a else 0", "f(a, b=1)", "a[0]", "'x'", "a // 2"):
            with self.assertRaises(ValueError):
                glsl.expression(ast.parse(text, mode="eval").body)
        with self.assertRaisesRegex(ValueError, "type"):
            glsl.function(ast.parse("def f(a):\n  'x'\n  return a").body[0])

    def test_the_front_end_has_the_newest(self):
        held = Path(__file__).parents[2] / "web/src/plate/formulas.gen.ts"
        for module in (formulas, wind_formulas):
            self.assertIn(glsl.translated(module), held.read_text())

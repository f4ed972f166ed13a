"""Checks are known by their names: two of one name would leave one that is never made."""

from __future__ import annotations

import unittest

from omakase.core.checks.registry import all_checks, register


class Names(unittest.TestCase):
    def test_a_second_check_of_a_name_is_refused(self) -> None:
        all_checks()
        with self.assertRaisesRegex(ValueError, "two checks are called 'core_shear'"):

            @register("core_shear", "Another failure", "none", "never")
            def _other(_context: object) -> list:
                return []

    def test_every_function_that_is_registered_is_run(self) -> None:
        """One for each decorator in the files of the checks."""
        import inspect
        import re
        from importlib import import_module

        from omakase.core.checks.registry import CHECK_MODULES

        decorators = sum(
            len(
                re.findall(
                    r"^@register(?:_detail)?\(", inspect.getsource(import_module(f"omakase.core.checks.{name}")), re.M
                )
            )
            for name in CHECK_MODULES
        )
        self.assertEqual(len(all_checks()), decorators)


if __name__ == "__main__":
    unittest.main()

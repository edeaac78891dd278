"""What a kernel alone gives, such as ranks: it is reckoned when it is asked for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from oat_tide.core.exact import Values
from oat_tide.core.working.formula import Formula
from oat_tide.core.working.tree import Given, Working


@dataclass(eq=False, slots=True)
class ByKernel(Formula):
    """What a kernel alone gives, when it is asked for, with where it comes from; of a fact (series, 1)."""

    values: Callable[[], Values]
    why: str
    fact: bool = False

    def compute(self, at: slice) -> Any:
        return self.values()[:, at]

    def bind(self, series: int, column: int) -> Working:
        return Given(float(self.values()[series, column]), self.why)

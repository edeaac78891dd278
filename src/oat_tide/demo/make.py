"""Make the demo files anew: python -m oat_tide.demo.make."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

from oat_tide.demo import mill, plan_path, sales_path
from oat_tide.documents import open_document, save_document
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.intake import Verdict
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.project.suited import suited

STORM = Ruled((), dt.date(2025, 2, 1), dt.date(2025, 2, 28), "leave out", note="storm closure")
GONE = Ruled(
    (("product", "Oatcakes"), ("route", "Wholesale"), ("area", "Islands")),
    mill.WITHDRAWN,
    dt.date(9999, 12, 31),
    "withdrawn",
)
NO_FIGURE = tuple(
    Verdict(reason=reason, outcome="leave out") for reason in ("no number", "number cannot be read")
)
"""What the demo plan rules: the storm is kept out of fits, one series ended for good, and lines without a
figure make no period unknown."""


def make_plan(sales: Path) -> Session:
    """The demo plan: oat drink on the north shore, a year's span of everything else left as found."""
    session = open_document(sales).session
    session.do(edit(P.title, "Mill plan 2026"))
    session.do(edit(P.where, (("product", "Oat drink"), ("area", "North shore"))))
    session.do(edit(P.evened.final_to, dt.date(2026, 8, 31)))
    session.do(edit(P.evened.rulings, (STORM, GONE)))
    session.do(edit(P.intake.verdicts, NO_FIGURE))
    session.do(edit(P.project.method, suited(session.sight().past)))
    session.begin(session.plan)
    return session


def main() -> None:
    """Write the sales lines and the plan beside this file."""
    print(f"{mill.write(sales_path()):,} lines in {sales_path().name}")
    save_document(make_plan(sales_path()), "history", plan_path())
    print(plan_path().name)


if __name__ == "__main__":
    main()

"""Take the pictures in docs/screenshots from the demo data: script/screenshots."""

from __future__ import annotations

import datetime as dt
import functools
import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from oat_tide.core.working.tree import Ref
from oat_tide.demo import plan_path
from oat_tide.desk.look import style
from oat_tide.desk.window.app import application
from oat_tide.desk.window.window import Window
from oat_tide.documents import open_document
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import LeftOutRatio, ManualIndex
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.plan.parts.spread import Lock, SpreadRequest
from oat_tide.plan.paths import P

FOLDER = Path(__file__).with_name("screenshots")


def across(folder: Path) -> Path:
    """Two years of the demo, a column a month with one heading mistyped, prices and totals beside them."""
    session = open_document(plan_path()).session
    panel, stop = session.panel, session.home + 1 - session.panel.first
    heads = [panel.grid.label(panel.first + column) for column in range(stop - 24, stop)]
    rows = [
        ["product", "case price", *("Marhc 2026" if head == "Mar 2026" else head for head in heads), "Total"]
    ]
    for product, price in (
        ("Porridge oats", 14.4),
        ("Oat drink", 18.0),
        ("Oatcakes", 21.6),
        ("Granola", 26.4),
    ):
        cases = panel.total((product, None, None)).values[0, stop - 24 : stop]
        figures = [f"{each:.0f}" for each in cases]
        rows.append([product, f"{price:.2f}", *figures, f"{cases.sum():.0f}"])
    path = folder / "cases by month.csv"
    path.write_text("\n".join(";".join(row) for row in rows) + "\n", encoding="utf-8")
    return path


def spread_out(window: Window) -> None:
    """A total of all for the year after, January locked, down to products."""
    window.do(edit(P.where, ()))
    window.do(edit(P.project, Project("line-season", horizon=15)))
    window.show_stage("seasons")
    window.do(edit(P.seasons.arrangement, "spread"))
    contract = Lock(dt.date(2027, 1, 1), dt.date(2027, 1, 31), 11_000.0)
    window.do(edit(P.spread.asked, (SpreadRequest((), "", 148_000.0, (contract,)),)))
    window.do(edit(P.spread.children, "product"))


def main() -> None:
    """Take every picture at 1280x800."""
    app = application()
    style.use(dark=False)
    FOLDER.mkdir(exist_ok=True)

    def settled(window: Window) -> None:
        end = time.monotonic() + 0.4
        while not window.all_told or time.monotonic() < end:
            app.processEvents()
            time.sleep(0.01)
        # What was made last is laid out before it is pictured.
        app.processEvents()

    def take(name: str, prepare: Callable[[Window], None], source: Path | None = None) -> None:
        window = Window()
        window.resize(1280, 800)
        window.show_document(open_document(source or plan_path()))
        window.show()
        settled(window)
        prepare(window)
        settled(window)
        window.grab().save(str(FOLDER / f"{name}.png"))
        window._leaving = True
        window.close()
        print(f"{name}.png")

    def followed(window: Window) -> None:
        window.show_stage("smooth")
        column = window.session.deck("smooth").past - 1
        window.deck.keep(Ref("smooth", "forecast_1", 0, column))
        window.deck.card.follow_term(1)
        window.deck.card.follow_term(0)
        window.deck.card.follow_term(0)

    def projected(window: Window, ask: Project) -> None:
        window.show_stage("project")
        window.do(edit(P.project, ask))

    def moved_back(window: Window) -> None:
        window.show_stage("project")
        window.do(edit(P.as_of, dt.date(2026, 3, 31)))
        settled(window)
        tide, deck = window.deck.tide, window.session.deck("project")
        row = [each.name for each in tide.rows].index("difference")
        QTest.mouseClick(
            tide, Qt.MouseButton.LeftButton, pos=tide.cell_rect(row, deck.past + 2).center().toPoint()
        )

    def days(window: Window) -> None:
        window.show_stage("smooth")
        window.choose_kind("day")
        settled(window)
        window.do(edit(P.smooth.smoothers[0].window, 28))
        window.deck.scale.all()

    def errors(window: Window) -> None:
        window.show_stage("smooth")
        level = Smoother(kind="level")
        window.do(
            edit(P.smooth.smoothers, (Smoother(kind="median", window=5), level, Smoother(kind="trend")))
        )
        window.do(edit(P.smooth.hand, 1))
        settled(window)
        window.sheet.finish()
        window.sheet.verticalScrollBar().setValue(330)

    def dark(window: Window) -> None:
        window.show_stage("project")
        window.do(edit(P.project.method, "growth"))
        window.switch_scheme()

    def whole(window: Window, tab: str) -> None:
        window.show_stage("intake")
        window.do(edit(P.where, ()))
        window.see_all()
        window.deck.foot.choose(tab)

    def arranged(window: Window, way: str) -> None:
        window.show_stage("history")
        window.do(edit(P.history.arrangement, way))
        window.see_all()

    def seasonal(window: Window, way: str) -> None:
        window.show_stage("seasons")
        window.do(edit(P.seasons.arrangement, way))
        if way == "indices":
            where = window.session.plan.where
            window.do(
                edit(P.seasons.by_hand, (ManualIndex(where, 12, "multiplicative", 7, 1.28, "new listing"),))
            )
            window.do(edit(P.seasons.left_out, (LeftOutRatio(where, 12, 2022, 7, "promotion"),)))
            settled(window)
            window.deck.keep(Ref("seasons", "index", 0, 0))

    take("intake", lambda window: whole(window, "Set aside"))
    take("intake-columns", lambda window: whole(window, "Columns"))
    with tempfile.TemporaryDirectory() as folder:
        take("intake-no-series", lambda window: None, across(Path(folder)))
    take("history", lambda window: window.show_stage("history"))
    for way in ("overlaid", "earlier", "shares"):
        take(f"history-{way}", functools.partial(arranged, way=way))
    take("smooth", lambda window: window.show_stage("smooth"))
    take("smooth-errors", errors)
    for way in ("parts", "indices", "deseasonalised"):
        take(f"seasons-{way}", functools.partial(seasonal, way=way))
    take("seasons-spread", spread_out)
    take("project", lambda window: projected(window, Project("line", residuals=True)))
    over = "same-period-growth", "indicators"
    take("project-season", lambda window: projected(window, Project("line-season", over)))
    take("as-of-moved-back", moved_back)
    take("lines-behind-a-figure", followed)
    take("days", days)
    take("dark", dark)


if __name__ == "__main__":
    main()

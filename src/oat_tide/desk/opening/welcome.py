"""What is shown while no plan is open."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from oat_tide.desk.look.plain import Text


class Welcome(QWidget):
    """The way in while no plan is open.

    Signals:
        opening: a file is to be chosen.
        demo: the demo plan is asked for.
    """

    opening = pyqtSignal()
    demo = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("welcome")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        box = QVBoxLayout(self)
        box.addStretch(2)
        title = Text("From sales lines to a projection held against actuals")
        title.setObjectName("title")
        text = Text(
            "Open sales lines or a table of figures: CSV, workbook, Parquet, database, a folder of them,\n"
            "or a plan. Dates, measure and series are found by content and can be changed;\n"
            "lines that cannot be read are listed, never dropped."
        )
        text.setObjectName("subtitle")
        for label in (title, text):
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            box.addWidget(label)
        row = QHBoxLayout()
        row.addStretch()
        self.open_button, self.demo_button = QPushButton("Open a file"), QPushButton("Open the demo plan")
        self.open_button.setObjectName("main")
        self.demo_button.setObjectName("plain")
        self.open_button.clicked.connect(self.opening)
        self.demo_button.clicked.connect(self.demo)
        row.addWidget(self.open_button)
        row.addWidget(self.demo_button)
        row.addStretch()
        box.addSpacing(14)
        box.addLayout(row)
        box.addStretch(3)

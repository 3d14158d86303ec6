"""A row of controls that may be given less room than it takes: then it slides, by the wheel or with the focus."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QSizePolicy, QWidget


class Strip(QScrollArea):
    """Shows as much of a row as there is room for."""

    def __init__(self, row: QWidget, least: int = 120) -> None:
        super().__init__()
        self._least = least
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setObjectName("strip")
        self.setWidget(row)
        row.setAutoFillBackground(False)
        self.setFixedHeight(row.minimumHeight() or row.sizeHint().height())

    def sizeHint(self) -> QSize:
        row = self.widget()
        return QSize(row.sizeHint().width() if row is not None else self._least, self.height())

    def minimumSizeHint(self) -> QSize:
        return QSize(self._least, self.height())

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        bar = self.horizontalScrollBar()
        if event is None or bar is None:
            return
        bar.setValue(bar.value() - (event.angleDelta().y() or event.angleDelta().x()) // 2)
        event.accept()

"""A row of controls that may be given less room than it takes: then it slides, by an arrow, the wheel or the focus."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QSizePolicy, QToolButton, QWidget


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
        self.more = QToolButton(self)
        self.more.setText("›")
        self.more.setObjectName("more")
        self.more.setFixedSize(22, 24)
        self.more.setToolTip("Show the controls that there is no room for, and back")
        self.more.setAccessibleName("More controls")
        self.more.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.more.clicked.connect(self._slide)
        self.more.hide()
        bar = self.horizontalScrollBar()
        if bar is not None:
            bar.rangeChanged.connect(self._show_more)
            bar.valueChanged.connect(self._show_more)

    def sizeHint(self) -> QSize:
        row = self.widget()
        return QSize(row.sizeHint().width() if row is not None else self._least, self.height())

    def minimumSizeHint(self) -> QSize:
        return QSize(self._least, self.height())

    def _slide(self) -> None:
        """On to the end of the row, and from there back to its start."""
        bar = self.horizontalScrollBar()
        if bar is not None:
            bar.setValue(0 if bar.value() >= bar.maximum() else bar.value() + bar.pageStep())

    def _show_more(self) -> None:
        bar = self.horizontalScrollBar()
        if bar is None:
            return
        at_end = bar.value() >= bar.maximum()
        self.more.setVisible(bar.maximum() > 0)
        self.more.setText("‹" if at_end else "›")
        # At the side on which something is hidden.
        x = 0 if at_end else self.width() - self.more.width()
        self.more.move(x, (self.height() - self.more.height()) // 2)
        self.more.raise_()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._show_more()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        bar = self.horizontalScrollBar()
        if event is None or bar is None:
            return
        bar.setValue(bar.value() - (event.angleDelta().y() or event.angleDelta().x()) // 2)
        event.accept()

"""The sound process: plays what it is handed, and tells how much of it was heard.

Sound lives in a process of its own: the libraries that play it take a tenth of a second to load, bring their own copies
of decoders, and may wait for a device however long they like.
"""

import socket
import sys

from PyQt6.QtCore import QCoreApplication, QIODevice, QLoggingCategory, QObject, QSocketNotifier, Qt, QTimer
from PyQt6.QtMultimedia import QAudio, QAudioFormat, QAudioSink, QMediaDevices

from ...helper_process import end_with_parent
from ...motion.sound import RATE
from . import sound_messages

_LOOK_MS = 10
_BUFFER_SECONDS = 0.12
_AHEAD_SECONDS = 0.25
"""How much is asked for before the device wants it."""


class _Supply(QIODevice):
    """What has come and was not played yet; silence where it has not come in time."""

    def __init__(self) -> None:
        super().__init__()
        self.waiting = bytearray()
        self.given = 0
        """Bytes of sound that the device has taken."""

    def readData(self, size: int) -> bytes:
        piece = bytes(self.waiting[:size])
        del self.waiting[:size]
        self.given += len(piece)
        return piece.ljust(size // sound_messages.BYTES * sound_messages.BYTES, b"\0")

    def writeData(self, data: object) -> int:
        return -1

    def bytesAvailable(self) -> int:
        return 1 << 20

    def isSequential(self) -> bool:
        return True


class Device(QObject):
    """Serves one program."""

    def __init__(self, connection: socket.socket) -> None:
        super().__init__()
        self._connection = connection
        self._turn, self._asked = 0, 0
        self._supply = _Supply()
        self._sink: QAudioSink | None = None
        form = QAudioFormat()
        form.setSampleRate(RATE)
        form.setChannelCount(2)
        form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        device = QMediaDevices.defaultAudioOutput()
        if not device.isNull() and device.isFormatSupported(form):
            self._sink = QAudioSink(device, form, self)
            self._sink.setBufferSize(round(_BUFFER_SECONDS * RATE) * sound_messages.BYTES)
        self._tell(sound_messages.SoundReady(self._sink is not None))
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self._look)
        self._notifier = QSocketNotifier(connection.fileno(), QSocketNotifier.Type.Read, self)  # type: ignore[call-overload]
        self._notifier.activated.connect(self._arrived)

    def _tell(self, what: sound_messages.FromDevice) -> None:
        try:
            self._connection.sendall(sound_messages.encode(what))
        except OSError:
            QCoreApplication.quit()

    def _arrived(self) -> None:
        try:
            data = self._connection.recv(sound_messages.MESSAGE_BYTES)
        except OSError:
            data = b""
        if not data:
            QCoreApplication.quit()
            return
        match sound_messages.for_device(data):
            case sound_messages.Begin(turn):
                self._begin(turn)
            case sound_messages.SoundData(turn, samples):
                if turn == self._turn:
                    self._supply.waiting += samples
            case sound_messages.StopSound():
                self._end()

    def _begin(self, turn: int) -> None:
        self._end()
        if self._sink is None:
            return
        self._turn, self._asked = turn, 0
        self._supply = _Supply()
        self._supply.open(QIODevice.OpenModeFlag.ReadOnly)
        self._timer.start()
        self._look()

    def _end(self) -> None:
        self._timer.stop()
        self._turn = 0
        if self._sink is not None:
            self._sink.stop()

    def _look(self) -> None:
        sink, supply = self._sink, self._supply
        assert sink is not None
        # What was asked for and has not been taken yet, here or on its way.
        left = self._asked - supply.given // sound_messages.BYTES
        if left < _AHEAD_SECONDS * RATE:
            count = round(_AHEAD_SECONDS * RATE)
            self._asked += count
            self._tell(sound_messages.WantSound(self._turn, count))
        if sink.state() == QAudio.State.StoppedState:
            if sink.error() not in (QAudio.Error.NoError, QAudio.Error.UnderrunError):
                self._end()
                self._tell(sound_messages.SoundReady(False))
            # Begun once there is something to play, so that silence does not come first.
            elif len(supply.waiting) >= _BUFFER_SECONDS * RATE * sound_messages.BYTES:
                sink.start(supply)
            return
        inside = (sink.bufferSize() - sink.bytesFree()) / sound_messages.BYTES
        self._tell(sound_messages.SoundHeard(self._turn, max(supply.given / sound_messages.BYTES - inside, 0.0) / RATE))


def main() -> None:
    end_with_parent()
    app = QCoreApplication(["wild-heron"])
    # What a mixer calls it.
    app.setApplicationName("Wild Heron")
    # What its libraries lack is nobody's concern: without a device it is silent.
    QLoggingCategory.setFilterRules("qt.multimedia*=false")
    device = Device(socket.socket(fileno=int(sys.argv[1])))
    app.exec()
    del device

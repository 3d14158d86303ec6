"""Qt's images as arrays, and arrays as Qt's images."""

import ctypes

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtGui import QImage

from ...arrays import Pixels


def image_of(pixels: NDArray[np.uint8], premultiplied: bool = False) -> QImage:
    """An image of pixels (H, W, 4) that lie in one piece. It shares their memory: copy what must stay."""
    height, width = pixels.shape[:2]
    form = QImage.Format.Format_RGBA8888_Premultiplied if premultiplied else QImage.Format.Format_RGBA8888
    return QImage(pixels.data, width, height, width * 4, form)  # type: ignore[call-overload]


def opaque_image_of(pixels: NDArray[np.uint8]) -> QImage:
    """A copy of pixels (H, W, 4) in the form that is painted fastest, without their alpha: one pass over them."""
    height, width = pixels.shape[:2]
    shared = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGBX8888)  # type: ignore[call-overload]
    return shared.convertToFormat(QImage.Format.Format_RGB32)


def pixels_of(image: QImage) -> Pixels:
    """The pixels (H, W, 4) of an image of four bytes a pixel. They are its memory: it must stay."""
    bits = image.constBits()
    assert bits is not None
    # By its address, so that what holds the array holds nothing of Qt, and may be a thread.
    memory = (ctypes.c_uint8 * image.sizeInBytes()).from_address(int(bits))
    rows = np.frombuffer(memoryview(memory), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return np.asarray(rows[:, : image.width()])

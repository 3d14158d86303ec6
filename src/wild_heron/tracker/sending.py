"""The stand-in at work: what it has tracked goes out in time, over UDP."""

import heapq
import socket
import time
from collections.abc import Callable

from .hand import Tracked
from .messages import Pose, encode


def send(
    tracked: Tracked,
    address: tuple[str, int],
    stopped: Callable[[], bool] = lambda: False,
    clock: Callable[[], float] = time.monotonic,
    sleep: Callable[[float], None] = time.sleep,
) -> int:
    """Send a recording as it happens, late messages late; how many went out. The button is held all the time but for
    the first and the last tenth of a second."""
    end = float(tracked.times[-1])
    waiting: list[tuple[float, int]] = [
        (float(at + delay), k) for k, (at, delay) in enumerate(zip(tracked.times, tracked.delay, strict=True))
    ]
    heapq.heapify(waiting)
    begun, sent = clock(), 0
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as out:
        while waiting and not stopped():
            at, k = heapq.heappop(waiting)
            wait = begun + at - clock()
            if wait > 0.0:
                sleep(wait)
            moment = float(tracked.times[k])
            x, y, z = tracked.hand.position[k].tolist()
            qx, qy, qz, qw = tracked.hand.quaternion[k].tolist()
            pose = Pose(moment, (x, y, z), (qx, qy, qz, qw), 0.1 < moment < end - 0.1)
            try:
                out.sendto(encode(pose), address)
                sent += 1
            except ConnectionRefusedError:
                pass  # Nobody listens just now; somebody may again.
    return sent

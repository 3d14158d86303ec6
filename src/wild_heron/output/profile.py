"""Where the time of an export goes, by stage."""

import threading


class Profile:
    """Seconds by stage, over all frames of an export. Stages of several processes and threads add up."""

    def __init__(self) -> None:
        self.seconds: dict[str, float] = {}
        self.frames = 0
        self._lock = threading.Lock()

    def add(self, stages: dict[str, float], frames: int = 0) -> None:
        """Add what some frames took."""
        with self._lock:
            self.frames += frames
            for name, seconds in stages.items():
                self.seconds[name] = self.seconds.get(name, 0.0) + seconds

    def table(self) -> str:
        """A line for each stage, the longest first: seconds in all, milliseconds a frame, and its share."""
        whole, count = sum(self.seconds.values()) or 1.0, max(self.frames, 1)
        rows = sorted(self.seconds.items(), key=lambda each: -each[1])
        lines = [f"{'stage':16} {'seconds':>9} {'ms a frame':>11} {'share':>6}"]
        for name, seconds in rows:
            lines.append(f"{name:16} {seconds:9.2f} {1000.0 * seconds / count:11.1f} {100.0 * seconds / whole:5.0f} %")
        return "\n".join(lines)

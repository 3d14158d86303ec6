"""Parses names and opacities of layers."""


def opacity(text: str) -> float:
    value = float(text)
    return min(max(value, 0.0), 1.0) if value == value else 1.0


def layer_name(given: str | None, fallback: str) -> str:
    return (given or "").strip()[:180] or fallback or "Layer"

"""What can be wrong with a scene. Every message names the thing and says what to do."""


class SceneError(ValueError):
    """An edit or a scene that cannot be; the message is meant for the user."""


class LoopError(SceneError):
    """A relation that would make nodes depend on themselves."""

    def __init__(self, names: list[str], remedy: str = "Choose another node.") -> None:
        self.names = names
        super().__init__(f"That would make a loop: {' → '.join(names)}. {remedy}")

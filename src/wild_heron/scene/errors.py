"""What can be wrong with a scene. Every message names the thing and says what to do."""


class SceneError(ValueError):
    """An edit or a scene that cannot be; the message is meant for the user."""


class UnknownNodeError(SceneError, KeyError):
    """A node that is asked for and is not in the scene."""

    def __init__(self, node_id: str) -> None:
        self.node_id = node_id
        super().__init__(f"There is no node “{node_id}” in the scene.")

    def __str__(self) -> str:
        return str(self.args[0])


class LoopError(SceneError):
    """A relation that would make nodes depend on themselves."""

    def __init__(self, names: list[str], remedy: str = "Choose another node.") -> None:
        self.names = names
        super().__init__(f"That would make a loop: {' → '.join(names)}. {remedy}")

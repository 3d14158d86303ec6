"""The actions of takes."""

from .action_spec import ActionSpec

A = ActionSpec

TAKE_ACTIONS = (
    A("life.record", "Record a take", "Count in, and record the selected node until it is stopped", "L, Space", gap=True, sub="Takes"),
    A("life.tracker", "From the tracker", "Record from a hand-held tracker instead of from dragging", "L, D", checkable=True, sub="Takes"),
    A("life.use", "Use the take", "Let the node move as the chosen take does, or by its keys again", "L, U", sub="Takes"),
    A("life.frames", "Put onto frames", "Make a take with a sample on every frame", "L, F", gap=True, sub="Takes"),
    A("life.mend", "Mend", "Make a take without gaps and jumps, filled by curves", "L, E", sub="Takes"),
    A("life.cut", "Cut gaps and jumps out", "Make a take that leaves out what is marked", "L, Shift+E", sub="Takes"),
    A("life.nth", "Keep every n-th sample…", "Make a take of fewer samples, with a smooth way between", "L, Shift+N", sub="Takes"),
    A("life.light", "Steady, light", "Make a take without jitter", "L, J", sub="Takes"),
    A("life.firm", "Steady, firm", "Make a take without shake", "L, Shift+J", sub="Takes"),
    A("life.strong", "Steady, strong", "Make a take as from a crane", "L, Ctrl+J", sub="Takes"),
    A("life.fewest", "Fewest keys…", "Make a take of as few keys as keep to it within a tolerance", "L, W", sub="Takes"),
    A("life.stretch", "Stretch the take…", "Make a take that lasts longer or shorter", "L, X", gap=True, sub="Takes"),
    A("life.trim", "Trim to the range", "Make a take of the part inside the range that is played", "L, Shift+X", sub="Takes"),
    A("life.join", "Join with the other chosen take…", "Make one take of two, over a blend", "L, Y", sub="Takes"),
    A("life.reverse", "Reverse the take", "Make a take that runs backwards", "L, Z", sub="Takes"),
    A("life.here", "Start here, facing this way", "Let the take begin where the node stands at the playhead", "L, Q", sub="Takes"),
    A("life.compare", "Compare two takes", "Show the picture with one take beside the picture with the other", "L, Shift+W", sub="Takes"),
    A("life.import", "Bring in a take…", "Bring in a .csv table or a glTF animation as a take", "L, Shift+I", gap=True, sub="Takes"),
    A("life.export", "Export the take…", "Write the chosen take as a .csv table", "L, Shift+P", sub="Takes"),
    A("life.remove_take", "Delete the take", "Delete the chosen take; what was made from it stays", "L, Shift+D", sub="Takes"),
)  # fmt: skip

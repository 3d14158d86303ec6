"""The actions of checks."""

from .action_spec import ActionSpec

A = ActionSpec
CHECK_ACTIONS = (
    A("check.next", "Next finding", "Go to the next thing that is wrong", "X, N"),
    A("check.previous", "Previous finding", "Go to the thing that is wrong before this one", "X, B"),
    A("check.fix", "Try the first fix", "Show the gentlest fix of the chosen finding in all views, before anything is changed", "X, F", gap=True),
    A("check.take", "Take the fix", "Make the fix that is shown a step of its own", "X, T"),
    A("check.leave", "Leave it as it is", "Put the fix that is shown away", "X, L"),
    A("check.accept", "Accept the finding…", "It is as it should be: keep a note, and find it again only if it gets worse", "X, A", gap=True),
    A("check.subject", "Keep in frame", "Check that what is selected stays in the action area, and is not hidden", "X, S", gap=True),
    A("check.subject_more", "How it is kept in frame…", "Say which part of it has to stay, how large, and in which shots", "X, Shift+S"),
    A("check.line", "Line between two nodes", "Check that no cut crosses the line between the two selected nodes", "X, D"),
    A("check.window", "Move the format's frame", "Let the format that is looked at lie elsewhere in the camera's picture, keyed like anything", "X, W", gap=True),
    A("check.follow", "Follow the subjects", "Work out the calmest way for the format's frame that keeps the subjects in", "X, V"),
    A("check.background", "Check in the background", "Go on checking while the Checks tab is not shown", "X, G", checkable=True, gap=True),
    A("check.limits", "Limits…", "Set what the checks hold this scene to", "X, Shift+L"),
)  # fmt: skip

"""The demo scene's artwork, drawn by script: vector shapes, gradients and paper grain."""

"""The five small scenes beside the fair, and their artwork: ``python -m demo.examples``."""

"""glTF 2.0 models: meshes with base colours and textures, and node animation (Khronos glTF 2.0 specification)."""

from .model import read_model

__all__ = ["read_model"]

"""glTF 2.0 models: meshes with base colours and textures, and node animation (Khronos glTF 2.0 specification)."""

from .animation import Track
from .model import Material, ModelContents, Part, model_files, read_model

__all__ = ["Material", "ModelContents", "Part", "Track", "model_files", "read_model"]

"""The open formats that docs/formats.md describes: read into the engine's values, and written."""

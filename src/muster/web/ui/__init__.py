"""Components, tags, frame, and the vendored parts."""

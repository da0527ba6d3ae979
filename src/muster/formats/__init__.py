"""File layouts: the only place that knows how values are written down."""

"""Stage 4: the sheet, still to come."""

"""Tools of the workshop: demo data, screenshots, vendored parts. Not shipped."""

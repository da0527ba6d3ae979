"""What a source’s findings come to in sentences; where to set a governor; what a neighbour hears."""

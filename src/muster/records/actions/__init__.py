"""Each change of state is one function here: it checks, does, and returns; no request, no HTML."""

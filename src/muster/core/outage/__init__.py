"""The home's day: what it asks of a source over an outage, drawn many times.

``demand`` says what comes out and is light; ``simulate`` loads the compiled
kernel, which takes a while, and is imported by whoever simulates.
"""

from .demand import DRAWS, SEED, OutageDemand, Simulate, StartDemand, StartsTogether, demand_key, upper

__all__ = ["DRAWS", "SEED", "OutageDemand", "Simulate", "StartDemand", "StartsTogether", "demand_key", "upper"]

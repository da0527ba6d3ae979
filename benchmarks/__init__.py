"""How fast it is: each piece of work beside the plain way of doing it, as ratios in one run.

``make bench`` runs everything on this machine and writes docs/benchmarks.md.
"""

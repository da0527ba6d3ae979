"""The demo jobs: three made-up homes on a made-up island, measured by small seeded models, slips included."""

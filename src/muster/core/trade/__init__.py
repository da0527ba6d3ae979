"""The small relations of the trade, each a pure function with its source: leads, motors, governors, batteries, heat, panels."""

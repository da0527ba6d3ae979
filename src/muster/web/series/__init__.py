"""A series: a short plan over many units in one sitting."""

"""The kit at hand: what each instrument reads, how truly, how fast, and what it must not be put through."""

"""The demo world: parts for the customers of a made-up harbour town, broken on purpose."""

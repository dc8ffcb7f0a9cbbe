"""The athlete: build, tests, loads, sore places."""

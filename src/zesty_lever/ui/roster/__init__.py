"""Roster: the team, who needs attention first."""

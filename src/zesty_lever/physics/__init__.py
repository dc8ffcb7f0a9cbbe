"""The mechanics: from a body and angles to forces and net joint moments; no exercise, no file, no window."""

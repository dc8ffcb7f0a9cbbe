"""What a coach chooses by: comparisons, intervals, rankings, searches."""

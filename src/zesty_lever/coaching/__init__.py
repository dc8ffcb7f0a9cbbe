"""What a coach says and sets up: findings, schools, the set-up card, the gym."""

"""Where athletes, plans and the log are kept: the only package that imports SQLAlchemy."""

"""Tools for those who build Dromikon."""

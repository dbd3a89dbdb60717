"""Records: what happened at a site, one row each, as it is searched for."""

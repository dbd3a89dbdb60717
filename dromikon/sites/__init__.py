"""Customers, sites, areas and recipient groups."""

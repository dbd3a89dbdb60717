"""Decoders that are taught: what a foreign message means, written down as a document."""

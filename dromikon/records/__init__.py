"""One place in which everything that happened is found: an index of records in a file of its own, which can be made anew at any time
from what it was made of, and searches that are kept under a name."""

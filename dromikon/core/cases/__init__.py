"""Cases: what is gathered under one heading and handed to somebody who has none of this software."""

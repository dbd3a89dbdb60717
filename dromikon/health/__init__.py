"""How an installation is: measured once, told on the page *Health*, under /metrics and under /healthz."""

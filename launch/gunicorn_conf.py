"""gunicorn: one process, many threads (each open event stream holds one), loopback only."""

import os

bind = f"127.0.0.1:{os.environ['USUAL_LAMP_WEB_PORT']}"
workers = 1
worker_class = "gthread"
threads = 48
timeout = 120
graceful_timeout = 2
keepalive = 15
worker_tmp_dir = "/dev/shm" if os.path.isdir("/dev/shm") else None
control_socket_disable = True

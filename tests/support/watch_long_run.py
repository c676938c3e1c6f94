"""watch_long_run.py COMMAND…: runs a training run to its end, by itself and served with nobody watching;
then watches what is left of it, and prints as JSON how large each got and what there was to see.
"""
import json
import os
import re
import signal
import socket
import subprocess
import sys
import tempfile

END = "stays up until Ctrl-C"


def peak_kb(pid):
    with open(f"/proc/{pid}/status", encoding="ascii") as file:
        return int(re.search(r"VmHWM:\s+(\d+)", file.read()).group(1))


def watched(port):
    """The names of the events, and the steps that were told."""
    with socket.create_connection(("127.0.0.1", port), timeout=20) as connection:
        connection.sendall(b"GET /events HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
        text = b""
        while b"event: end" not in text:
            part = connection.recv(65536)
            if not part:
                break
            text += part
    body = re.sub(rb"\r\n[0-9a-fA-F]+\r\n", b"", text).decode(errors="replace")
    names = re.findall(r"event: (\w+)", body)
    steps = [int(step) for step in re.findall(r'"step":\s*(\d+)', body)]
    return {name: names.count(name) for name in set(names)}, steps


def main():
    command = sys.argv[1:]
    with tempfile.TemporaryFile() as nowhere:
        alone = subprocess.Popen(command, stdout=nowhere, stderr=nowhere)
        _, _, usage = os.wait4(alone.pid, 0)
        run = subprocess.Popen([*command, "--serve", "--port", "0"], stdout=nowhere,
                               stderr=subprocess.PIPE, text=True)
        said = ""
        while END not in said:
            said += run.stderr.readline()
        kb = peak_kb(run.pid)
        counts, steps = watched(int(re.search(r"127\.0\.0\.1:(\d+)/", said).group(1)))
        run.send_signal(signal.SIGINT)
        run.wait()
    print(json.dumps({"alone_kb": usage.ru_maxrss, "served_kb": kb, "counts": counts,
                      "first_step": min(steps), "last_step": max(steps)}))


main()

"""attack_run.py COMMAND…: serves a training run, asks it for what nobody should ask for, with as many
connections as it takes and more, and prints as JSON what it answered and how large it got.
"""
import json
import re
import signal
import socket
import subprocess
import sys
import threading
import time

CONNECTIONS = 256


def peak_kb(process):
    with open(f"/proc/{process.pid}/status", encoding="ascii") as file:
        return int(re.search(r"VmHWM:\s+(\d+)", file.read()).group(1))


def start(command):
    run = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    said = []
    port = None
    while port is None:
        said.append(run.stderr.readline())
        found = re.search(r"http://127\.0\.0\.1:(\d+)/", said[-1])
        port = int(found.group(1)) if found else None
    threading.Thread(target=lambda: said.extend(run.stderr), daemon=True).start()
    out = []
    reader = threading.Thread(target=lambda: out.append(run.stdout.read()), daemon=True)
    reader.start()
    return run, port, said, out, reader


def crowd(port, opening, more=b"", seconds=1.5):
    """So many connections with the same words, and more words as long as they are taken."""
    connections = []
    for _ in range(CONNECTIONS):
        try:
            connection = socket.create_connection(("127.0.0.1", port), timeout=2)
            connection.setblocking(False)
            connection.send(opening)
            connections.append(connection)
        except OSError:
            pass
    end = time.time() + seconds
    cut_off = 0
    while time.time() < end and connections:
        for connection in list(connections):
            try:
                if more:
                    connection.send(more)
            except BlockingIOError:
                continue
            except OSError:
                cut_off += 1
                connection.close()
                connections.remove(connection)
        time.sleep(0.05)
    for connection in connections:
        connection.close()
    return cut_off == CONNECTIONS


def answer_to(port, request):
    with socket.create_connection(("127.0.0.1", port), timeout=5) as connection:
        connection.sendall(request)
        connection.settimeout(5)
        try:
            return connection.recv(4096).decode(errors="replace")
        except OSError:
            return ""


def asked(path, host, more=""):
    return f"GET {path} HTTP/1.1\r\nHost: {host}\r\n{more}\r\n".encode()


def main():
    run, port, said, out, reader = start([*sys.argv[1:], "--port", "0"])
    here = f"127.0.0.1:{port}"
    report = {"alone_kb": peak_kb(run), "cut_off": {}}
    attacks = {
        "a head that never ends": (f"GET / HTTP/1.1\r\nHost: {here}\r\n".encode(),
                                   b"A: " + b"a" * 1000 + b"\r\n"),
        "a head that drips": (b"GET / HT", b"T"),
        "a body that never ends": (f"POST / HTTP/1.1\r\nHost: {here}\r\n"
                                   "Content-Length: 999999999\r\n\r\n".encode(), b"b" * 10000),
        "pieces of the page": (asked("/", here, "Range: bytes=" +
                                     ",".join("0-" for _ in range(1000)) + "\r\n"), b""),
        "pages nobody reads": (asked("/", here, "Accept-Encoding: gzip\r\n"), b""),
        "watchers that do not read": (asked("/events", here), b""),
    }
    for name, (opening, more) in attacks.items():
        # Who goes on and on is shown out sooner or later; on a busy machine later.
        seconds = 30.0 if more else 1.5
        report["cut_off"][name] = crowd(port, opening, more, seconds)
    report["attacked_kb"] = peak_kb(run)
    report["asked_for"] = [answer_to(port, asked("/", host))[:12]
                           for host in [here, f"localhost:{port}", "127.0.0.1"]]
    report["not_asked_for"] = [answer_to(port, asked("/", host))[:12]
                               for host in [f"evil.example:{port}", "evil.example",
                                            f"127.0.0.1:{port + 1}",
                                            f"127.0.0.1.evil.example:{port}"]]
    report["ranges"] = answer_to(port, asked("/", here, "Range: bytes=0-3\r\n"))[:12]
    report["page"] = answer_to(port, asked("/", here))[:12]
    other = subprocess.run([*sys.argv[1:], "--port", str(port)], capture_output=True, text=True,
                           check=False)
    report["second"] = {"status": other.returncode, "said": other.stderr}
    while not any("stays up" in line for line in said) and run.poll() is None:
        time.sleep(0.05)
    run.send_signal(signal.SIGINT)
    report["status"] = run.wait(timeout=30)
    reader.join()
    report["out"] = out[0]
    json.dump(report, sys.stdout)


main()

"""watch_run.py COMMAND…: starts a training run that is served on a free port, watches it as
browsers do and as they should not, and prints what came of it as JSON.
"""
import json
import re
import signal
import socket
import subprocess
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor


def start(command):
    run = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    said = ""
    while "http://" not in said:
        line = run.stderr.readline()
        if not line:
            sys.exit(f"no address: {said}")
        said += line
    port = int(re.search(r"http://127\.0\.0\.1:(\d+)/", said).group(1))
    # What is said later must be read, or the run would wait.
    lines = []
    threading.Thread(target=lambda: lines.extend(run.stderr), daemon=True).start()
    out = []
    threading.Thread(target=lambda: out.append(run.stdout.read()), daemon=True).start()
    return run, port, lines, out


def ask(port, request, until=None, seconds=8.0):
    """Sends bytes, and reads until the other side is done, a text appears, or time is up."""
    answer = b""
    with socket.create_connection(("127.0.0.1", port), timeout=seconds) as connection:
        connection.sendall(request)
        end = time.time() + seconds
        while time.time() < end:
            connection.settimeout(max(0.05, end - time.time()))
            try:
                part = connection.recv(65536)
            except (TimeoutError, ConnectionError):
                break
            if not part:
                break
            answer += part
            if until and until in answer:
                break
    return joined(answer).decode(errors="replace")


def joined(answer):
    """An answer whose body came in chunks, without what stands between them; any other as it is."""
    head, separator, rest = answer.partition(b"\r\n\r\n")
    if b"transfer-encoding: chunked" not in head.lower():
        return answer
    body = b""
    while b"\r\n" in rest:
        size, _, rest = rest.partition(b"\r\n")
        body += rest[:int(size, 16)]
        rest = rest[int(size, 16) + 2:]
    return head + separator + body


def get(path):
    return f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n".encode()


def events(text):
    return re.findall(r"event: (\w+)\r?\ndata: (.*?)\r?\n", text)


def main():
    run, port, said, out = start(sys.argv[1:])
    report = {}
    crowd, texts = [], []

    def watch():
        texts.append(ask(port, get("/events"), until=b"event: end", seconds=60))

    for _ in range(200):
        thread = threading.Thread(target=watch)
        thread.start()
        crowd.append(thread)
    never_reads = socket.create_connection(("127.0.0.1", port))
    never_reads.sendall(get("/events"))
    half_open = [socket.create_connection(("127.0.0.1", port)) for _ in range(20)]
    for each in half_open:
        each.sendall(b"GET /eve")
    report["page_beside_the_crowd"] = ask(port, get("/"))
    rubbish = [b"\x00\xff" * 500 + b"\r\n\r\n", b"GET\r\n\r\n", b"POST / HTTP/1.1\r\nHost: a\r\n\r\n",
               b"GET / HTTP/9.9\r\n\r\n", b"GET /" + b"a" * 100_000 + b" HTTP/1.1\r\n\r\n",
               b"POST /events HTTP/1.1\r\nHost: a\r\nContent-Length: 99999999\r\n\r\nxx"]
    other = ["/etc/passwd", "/../../../etc/passwd", "/..%2f..%2fetc/passwd", "/README.md",
             "/events/", "//", "/index.html"]
    with ThreadPoolExecutor(max_workers=16) as at_once:
        answers = list(at_once.map(lambda each: ask(port, each, seconds=4),
                                   rubbish + [get(path) for path in other]))
    report["rubbish"] = [answer[:40] for answer in answers[:len(rubbish)]]
    report["other_files"] = {path: answer[:12]
                             for path, answer in zip(other, answers[len(rubbish):])}
    for thread in crowd:
        thread.join()
    report["watchers"] = [[name for name, _ in events(text)] for text in texts]
    late = ask(port, get("/events"), until=b"event: end", seconds=20)
    report["late"] = events(late)
    report["still_running"] = run.poll() is None
    for each in [never_reads, *half_open]:
        each.close()
    while not any("stays up" in line for line in said):
        time.sleep(0.05)
    run.send_signal(signal.SIGINT)
    report["status"] = run.wait(timeout=30)
    report["said"] = "".join(said)
    time.sleep(0.2)
    report["out"] = out[0] if out else ""
    try:
        socket.create_connection(("127.0.0.1", port), timeout=2).close()
        report["gone"] = False
    except OSError:
        report["gone"] = True
    json.dump(report, sys.stdout)


main()

#!/usr/bin/env python3
"""growth.py LATTICE FOLDER: measures how the time of learning grows with the size of things, and writes to FOLDER a
table of each measurement, a chart of it, and figures.md with the exponents. The command LATTICE measures itself
(`learning_seconds` of an epoch), fits the straight line through the logarithms, and draws it. All sizes are measured
in turn, round by round, and the least of each counts: a machine that is slow for a while is so for all of them.
"""
import csv
import json
import math
import os
import random
import subprocess
import sys
import tempfile

GLAZES = ["glazes", "--train", "1", "--validation", "0", "--test", "0", "--judge-train", "none"]
ROUNDS = 7


def told(lattice, *words, threads=1):
    environment = dict(os.environ, OMP_NUM_THREADS=str(threads))
    return subprocess.run([lattice, *words], check=True, capture_output=True, text=True, env=environment).stdout


def seconds(lattice, words, threads):
    """The least seconds of learning that one of a few epochs took."""
    with tempfile.TemporaryDirectory() as folder:
        figures = os.path.join(folder, "run.csv")
        told(lattice, "train", *words, "--epochs", "3", "--csv", figures, "--say", "nothing", "--quiet", "all",
             threads=threads)
        with open(figures, encoding="utf-8") as lines:
            return min(float(row["learning_seconds"]) for row in csv.DictReader(lines) if row["epoch"] != "0")


def of_graph(nodes, edges, folder):
    """Potters who share kilns with others, drawn at random: its two files."""
    draw = random.Random(1)
    people, shared = (os.path.join(folder, f"{name}_{edges}.csv") for name in ("potters", "kilns"))
    with open(people, "w", encoding="utf-8") as lines:
        lines.write("potter,pots,guild\n")
        lines.writelines(f"p{at},{draw.gauss(0, 1):.4f},{draw.choice(['north', 'south'])}\n" for at in range(nodes))
    with open(shared, "w", encoding="utf-8") as lines:
        lines.write("from,to\n")
        lines.writelines(f"p{draw.randrange(nodes)},p{draw.randrange(nodes)}\n" for _ in range(edges))
    return ["--file", people, "--edges", shared]


def measurements(folder):
    """What grows: its name, what else is fixed, the sizes, and the lesson of each."""
    def glazes(rows, batch, net, *more):
        return [*GLAZES, "--rows", str(rows), "--batch", str(batch), "--net", net, *more]

    def deep(layers):
        return glazes(512, 64, f"dense 64 start he, relu, {layers} times (dense 64 start he, relu), dense 4")

    def wide(width):
        return glazes(256, 64, f"dense {width}, relu, dense {width}, relu, dense 4", "--precision", "single")

    def picture(side):
        return ["stamps", "--rows", "64", "--train", "1", "--validation", "0", "--test", "0", "--judge-train", "none",
                "--resize", f"{side}x{side}", "--batch", "16", "--precision", "single", "--net",
                "conv 8 of 3x3 keeping size, relu, conv 8 of 3x3 keeping size, relu, average all, dense 8"]

    def graph(edges):
        return [*of_graph(2000, edges, folder), "--known", "100", "--judge-train", "none",
                "--net", "neighbours, dense 16 without bias, relu, neighbours, dense 2"]

    small = "dense 8, relu, dense 4"
    return [
        ("rows", "5-8-4, minibatches of 16", [4000, 8000, 16000, 32000, 64000], lambda n: glazes(n, 16, small), 1),
        ("batch", "5-8-4, 16 384 rows", [4, 8, 16, 32, 64, 128, 256], lambda n: glazes(16384, n, small), 1),
        ("width", "two layers so wide, 256 rows, minibatches of 64", [256, 512, 1024, 2048], wide, 1),
        ("depth", "so many layers of 64 units, 512 rows, minibatches of 64", [4, 8, 16, 32, 64], deep, 1),
        ("side", "pictures so wide and high, two convolutions of 8 kernels, 64 rows", [16, 32, 64, 128], picture, 1),
        ("edges", "a graph of 2000 nodes, 16 columns", [32000, 64000, 128000, 256000, 512000], graph, 1),
        ("threads", "two layers of 1024, 256 rows, minibatches of 64", [1, 2], lambda n: wide(1024), None)]


def fitted(lattice, name, table, chart):
    """The exponent: the slope of the straight line through the logarithms, which is drawn as well."""
    lesson = ["--file", table, "--title", f"Seconds of an epoch by {name}", "--features", f"log10 of {name}",
              "--target", "log10 of seconds", "--train", "1", "--validation", "0", "--test", "0", "--batch", "all",
              "--rate", "0.2", "--epochs", "200", "--quiet", "all"]
    with tempfile.TemporaryDirectory() as folder:
        model = os.path.join(folder, "line.lattice")
        told(lattice, "train", *lesson, "--save", model, "--say", "nothing")
        with open(model, encoding="utf-8") as text:
            found = json.load(text)
    told(lattice, "draw", "line", *lesson, "--out", chart)
    weight = next(iter(found["network"]["weights"].values()))
    (feature,), (target,) = found["preparation"], found["target"]["preparation"]
    return weight[0][0] * target["divisor"][0] / feature["divisor"][0]


def main():
    lattice, out = sys.argv[1:]
    os.makedirs(out, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, open(os.path.join(out, "figures.md"), "w", encoding="utf-8") as text:
        growing = measurements(folder)
        lessons = {(name, size): (lesson(size), threads or size)
                   for name, _, sizes, lesson, threads in growing for size in sizes}
        least = dict.fromkeys(lessons, math.inf)
        for _ in range(ROUNDS):
            for key, (words, threads) in lessons.items():
                least[key] = min(least[key], seconds(lattice, words, threads))
        for name, fixed, sizes, _, _ in growing:
            table = os.path.join(out, f"{name}.csv")
            with open(table, "w", encoding="utf-8") as lines:
                lines.write(f"{name},seconds,log10 of {name},log10 of seconds\n")
                for size in sizes:
                    took = least[name, size]
                    lines.write(f"{size},{took:.6f},{math.log10(size):.6f},{math.log10(took):.6f}\n")
            exponent = fitted(lattice, name, table, os.path.join(out, f"{name}.png"))
            each = ", ".join(f"{size}: {1000 * least[name, size]:.3g}" for size in sizes)
            text.write(f"| {name} | {fixed} | {each} | {exponent:.2f} |\n")


if __name__ == "__main__":
    main()

"""Makes the graphs beside this file, with networkx.

    pip install networkx
    python make.py

moorings.graphml   stations, buoys and keepers, 12 nodes: small enough to be drawn itself
network.graphml    the same kinds, 400 nodes: its kinds are drawn
stations.csv, links.csv   the second one as a table of nodes and one of edges
"""

import csv
import random

import networkx as nx

DICE = random.Random(11)


def graph(stations, buoys, keepers):
    g = nx.MultiDiGraph()
    for i in range(stations):
        g.add_node(f"s{i}", kind="Station", name=f"Station {i}", height=round(DICE.uniform(0, 9), 2), opened=f"20{10 + i % 15}-04-01")
    for i in range(buoys):
        more = {"depth": DICE.randint(5, 60)} if i % 4 else {}
        g.add_node(f"b{i}", kind="Buoy", name=f"Buoy {i}", lit=bool(i % 2), **more)
        g.add_edge(f"b{i}", f"s{i % stations}", kind="reports to")
    for i in range(keepers):
        g.add_node(f"k{i}", kind="Keeper", name=f"Keeper {i}")
        for station in DICE.sample(range(stations), 2):
            g.add_edge(f"k{i}", f"s{station}", kind="watches", since=f"20{15 + i % 10}-01-01", nights=DICE.randint(1, 9))
    return g


def tables(g):
    columns = ["id", "kind", "name", "height", "opened", "lit", "depth"]
    with open("stations.csv", "w", newline="") as out:
        rows = csv.DictWriter(out, columns, lineterminator="\n")
        rows.writeheader()
        rows.writerows({"id": node, **data} for node, data in g.nodes(data=True))
    with open("links.csv", "w", newline="") as out:
        rows = csv.DictWriter(out, ["source", "target", "kind", "since", "nights"], lineterminator="\n")
        rows.writeheader()
        rows.writerows({"source": a, "target": b, **data} for a, b, data in g.edges(data=True))


nx.write_graphml(graph(3, 6, 3), "moorings.graphml")
large = graph(40, 300, 60)
nx.write_graphml(large, "network.graphml")
tables(large)

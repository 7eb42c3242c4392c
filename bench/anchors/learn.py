"""The forest of Debian's python3-sklearn on the same pixels and features: learn.py FOLDER FEATURES, prints {f1, seconds}."""

import json
import sys
import time

import numpy as np
from sklearn.ensemble import RandomForestClassifier

folder, count = sys.argv[1], int(sys.argv[2])


def read(name):
    labels = np.fromfile(f"{folder}/{name}.labels", np.uint8)
    return np.fromfile(f"{folder}/{name}.features", np.uint8).reshape(count, -1).T, labels


x, y = read("train")
forest = RandomForestClassifier(n_estimators=16, max_depth=18, min_samples_leaf=6, random_state=1, n_jobs=1)
begin = time.perf_counter()
forest.fit(x, y)
seconds = time.perf_counter() - begin
x, y = read("held")
p = forest.predict_proba(x)[:, 1] > 0.5
print(json.dumps({"f1": float(2 * (p & (y == 1)).sum() / (p.sum() + (y == 1).sum())), "seconds": seconds}))

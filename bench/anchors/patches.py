"""SLIC of Debian's python3-skimage on the same scenes: patches.py FOLDER SIDE, prints {scene: {recall, under, ms}}."""

import json
import os
import sys
import time

import numpy as np
from skimage import io, segmentation

side = int(sys.argv[2])
found = {}
for scene in sorted(os.listdir(sys.argv[1])):
    folder = os.path.join(sys.argv[1], scene)
    if not os.path.isfile(os.path.join(folder, "scene.png")):
        continue
    picture = io.imread(os.path.join(folder, "scene.png"))[..., :3]
    truth = io.imread(os.path.join(folder, "truth.png"))
    truth = (truth if truth.ndim == 2 else truth[..., 0]) > 127
    begin = time.perf_counter()
    labels = segmentation.slic(picture, n_segments=picture.shape[0] * picture.shape[1] // (side * side), compactness=10, start_label=0)
    ms = 1000 * (time.perf_counter() - begin)
    edges = lambda a: np.pad(a[:, 1:] != a[:, :-1], ((0, 0), (0, 1))) | np.pad(a[1:] != a[:-1], ((0, 1), (0, 0)))
    near = np.zeros(truth.shape, bool)
    ys, xs = np.nonzero(edges(labels))
    for dy in range(-2, 3):
        for dx in range(-2, 3):
            near[np.clip(ys + dy, 0, truth.shape[0] - 1), np.clip(xs + dx, 0, truth.shape[1] - 1)] = True
    border = edges(truth)
    inside = np.bincount(labels.ravel(), truth.ravel(), labels.max() + 1)
    every = np.bincount(labels.ravel(), minlength=labels.max() + 1)
    found[scene] = {
        "recall": float((near & border).sum() / max(1, border.sum())),
        "under": float(np.minimum(inside, every - inside).sum() / truth.size),
        "ms": ms,
    }
print(json.dumps(found))

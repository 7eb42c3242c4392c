"""GrabCut of Debian's python3-opencv on the same scenes: cutout.py FOLDER, prints {scene: {iou, ms, clicks: [iou after 1, 3, 5 clicks], ms_click}}."""

import json
import os
import sys
import time

import cv2
import numpy as np

ROUNDS = 5
cv2.setNumThreads(1)
found = {}
for scene in sorted(os.listdir(sys.argv[1])):
    folder = os.path.join(sys.argv[1], scene)
    if not os.path.isfile(os.path.join(folder, "scene.png")):
        continue
    picture = cv2.imread(os.path.join(folder, "scene.png"))
    truth = cv2.imread(os.path.join(folder, "truth.png"), 0) > 127
    box = json.load(open(os.path.join(folder, "box.json")))
    rect = (int(box["x"]), int(box["y"]), max(2, int(box["width"])), max(2, int(box["height"])))
    mask = np.zeros(truth.shape, np.uint8)
    models = np.zeros((1, 65)), np.zeros((1, 65))
    begin = time.perf_counter()
    cv2.grabCut(picture, mask, rect, *models, ROUNDS, cv2.GC_INIT_WITH_RECT)
    first = 1000 * (time.perf_counter() - begin)
    iou = lambda m: float((m & truth).sum() / max(1, (m | truth).sum()))
    got = (mask == 1) | (mask == 3)
    result = {"iou": iou(got), "ms": first, "clicks": [], "ms_click": 0.0}
    times = []
    for click in range(5):
        best = (0, 0, 0, True)
        for part, adds in ((truth & ~got, True), (got & ~truth, False)):
            n, labels, stats, _ = cv2.connectedComponentsWithStats(part.astype(np.uint8), connectivity=4)
            if n > 1:
                k = 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))
                if stats[k, cv2.CC_STAT_AREA] > best[0]:
                    deep = cv2.distanceTransform(np.pad((labels == k).astype(np.uint8), 1), cv2.DIST_L2, 3)[1:-1, 1:-1]
                    y, x = np.unravel_index(np.argmax(deep), deep.shape)
                    best = (stats[k, cv2.CC_STAT_AREA], x, y, adds)
        if best[0] > 0:
            begin = time.perf_counter()
            cv2.circle(mask, (int(best[1]), int(best[2])), max(2, int(0.028 * max(rect[2:]))), 1 if best[3] else 0, -1)
            cv2.grabCut(picture, mask, None, *models, 1, cv2.GC_INIT_WITH_MASK)
            times.append(1000 * (time.perf_counter() - begin))
            got = (mask == 1) | (mask == 3)
        if click in (0, 2, 4):
            result["clicks"].append(iou(got))
    result["ms_click"] = float(np.median(times)) if times else 0.0
    found[scene] = result
print(json.dumps(found))

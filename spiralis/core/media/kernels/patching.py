"""Find for each patch of a hole the patch of its surroundings that is most like it, and mix the hole from those.

Sources: Barnes et al., *PatchMatch* (2009), for the search; Wexler, Shechtman, Irani, *Space-Time Completion of Video*
(2007), for the mixing.
"""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def _distance(picture, y, x, v, u, radius, limit):
    """Return the sum of squared differences of two patches, or anything over ``limit`` as soon as it is passed."""
    height, width = picture.shape[0], picture.shape[1]
    total = np.float32(0.0)
    for dy in range(-radius, radius + 1):
        py = min(max(y + dy, 0), height - 1)
        for dx in range(-radius, radius + 1):
            px = min(max(x + dx, 0), width - 1)
            for c in range(3):
                away = picture[py, px, c] - picture[v + dy, u + dx, c]
                total += away * away
        if total > limit:
            return total
    return total


@njit(cache=True, nogil=True)
def _next(state):
    """Return the next number of a linear congruential generator (Numerical Recipes, 7.1): the same every time."""
    return (np.uint32(1664525) * state + np.uint32(1013904223)) & np.uint32(0xFFFFFFFF)


@njit(cache=True, nogil=True)
def begin(picture, targets, sources, places, costs, radius, seed):
    """Give each target (n, 2) a place (n, 2) to take its patch from, where it has none (-1), and its cost.

    ``sources`` bool (h, w) says where patches lie wholly in what is known; ``picture`` is float32 (h, w, 3).
    """
    height, width = picture.shape[0], picture.shape[1]
    state = np.uint32(seed)
    for n in range(len(targets)):
        v, u = places[n, 0], places[n, 1]
        tries = 0
        while v < 0 or v >= height or u < 0 or u >= width or not sources[v, u]:
            state = _next(state)
            v = int(state >> np.uint32(8)) % height
            state = _next(state)
            u = int(state >> np.uint32(8)) % width
            tries += 1
            if tries > 100000:
                return
        places[n, 0], places[n, 1] = v, u
        costs[n] = _distance(picture, targets[n, 0], targets[n, 1], v, u, radius, np.float32(1e30))


@njit(cache=True, nogil=True)
def search(picture, targets, index, sources, places, costs, radius, rounds, seed):
    """Improve the places of targets: by those of their neighbours, then at random nearer and nearer around them.

    ``index`` int32 (h, w) leads from a pixel to its target, -1 where there is none.
    """
    height, width = picture.shape[0], picture.shape[1]
    state = np.uint32(seed)
    count = len(targets)
    for turn in range(rounds):
        step = 1 if turn % 2 == 0 else -1
        for k in range(count):
            n = k if step == 1 else count - 1 - k
            y, x = targets[n, 0], targets[n, 1]
            for side in range(2):
                by, bx = y - (step if side == 0 else 0), x - (step if side == 1 else 0)
                if 0 <= by < height and 0 <= bx < width and index[by, bx] >= 0:
                    other = index[by, bx]
                    v = places[other, 0] + (step if side == 0 else 0)
                    u = places[other, 1] + (step if side == 1 else 0)
                    if 0 <= v < height and 0 <= u < width and sources[v, u]:
                        cost = _distance(picture, y, x, v, u, radius, costs[n])
                        if cost < costs[n]:
                            costs[n], places[n, 0], places[n, 1] = cost, v, u
            reach = max(height, width)
            while reach >= 1:
                state = _next(state)
                v = places[n, 0] + int(state >> np.uint32(8)) % (2 * reach + 1) - reach
                state = _next(state)
                u = places[n, 1] + int(state >> np.uint32(8)) % (2 * reach + 1) - reach
                if 0 <= v < height and 0 <= u < width and sources[v, u]:
                    cost = _distance(picture, y, x, v, u, radius, costs[n])
                    if cost < costs[n]:
                        costs[n], places[n, 0], places[n, 1] = cost, v, u
                reach //= 2


@njit(cache=True, nogil=True)
def mix(picture, hole, targets, places, costs, radius, trust, sigma2):
    """Set the pixels of the hole to the mean of what the patches over them say, the likeliest the most.

    ``trust`` float32 (h, w) weighs patches, falling off into the hole.
    """
    height, width = picture.shape[0], picture.shape[1]
    total = np.zeros((height, width, 4), dtype=np.float32)
    for n in range(len(targets)):
        y, x = targets[n, 0], targets[n, 1]
        weight = trust[y, x] * np.exp(-costs[n] / sigma2) + np.float32(1e-6)
        for dy in range(-radius, radius + 1):
            py = y + dy
            if py < 0 or py >= height:
                continue
            for dx in range(-radius, radius + 1):
                px = x + dx
                if px < 0 or px >= width or not hole[py, px]:
                    continue
                for c in range(3):
                    total[py, px, c] += weight * picture[places[n, 0] + dy, places[n, 1] + dx, c]
                total[py, px, 3] += weight
    for y in range(height):
        for x in range(width):
            if hole[y, x] and total[y, x, 3] > 0.0:
                for c in range(3):
                    picture[y, x, c] = total[y, x, c] / total[y, x, 3]

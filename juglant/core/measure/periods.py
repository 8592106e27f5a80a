"""How well a sound repeats itself, and what is new in it: compiled.

The lag is YIN's (de Cheveigné & Kawahara, JASA 111, 2002).
"""

# mypy: disable-error-code="no-untyped-def"

import numba as nb
import numpy as np


@nb.njit("(float64[::1], int64[::1], int64, int64, int64, float64)", cache=True, fastmath=True, nogil=True)
def yin(x, starts, window, least, most, dip_limit):
    """Lag in frames and depth of the dip for every start; 0 where nothing repeats.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    starts
        Frames from which on is looked.
    window, least, most
        In frames: what is compared, and the shortest and the longest lag.
    dip_limit
        How deep a dip is enough, 0 to 1.

    Returns
    -------
    tuple of ndarray
        Lags and dips, shape of `starts`.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 60 * np.arange(3000) / 6000)
    >>> lags, dips = yin(x, np.array([0, 500]), 270, 14, 223, 0.12)
    >>> lags.round()
    array([100., 100.])
    """
    lags = np.zeros(starts.size)
    dips = np.ones(starts.size)
    difference = np.empty(most + 2)
    for n in range(starts.size):
        a = starts[n]
        near = x[a : a + window]
        total = 0.0
        difference[0] = 1.0
        for lag in range(1, most + 2):
            # A slice that is counted from 0 is read several at once: twenty times as quick.
            far = x[a + lag : a + lag + window]
            value = 0.0
            for k in range(window):
                d = near[k] - far[k]
                value += d * d
            total += value
            difference[lag] = value * lag / total if total > 0.0 else 1.0
        best = 0
        for lag in range(least, most + 1):
            if difference[lag] < dip_limit and difference[lag] <= difference[lag + 1]:
                best = lag
                break
        if best == 0:
            best = least
            for lag in range(least, most + 1):
                if difference[lag] < difference[best]:
                    best = lag
            # A dip that is nearly as deep at a shorter lag is the pitch; the deepest may be a multiple.
            for lag in range(least, best):
                local = difference[lag] <= difference[lag + 1] and difference[lag] <= difference[lag - 1]
                if local and difference[lag] < difference[best] + 0.1:
                    best = lag
                    break
        before, here, after = difference[best - 1], difference[best], difference[best + 1]
        bend = before - 2 * here + after
        shift = 0.5 * (before - after) / bend if bend > 1e-12 else 0.0
        lags[n] = best + min(max(shift, -0.5), 0.5)
        dips[n] = here
    return lags, dips


@nb.njit("(float64[::1], float64[::1], int64, int64, int64)", cache=True, fastmath=True, nogil=True)
def surprise(x, lags, hop, step, ahead):
    """How much of what comes is not what a period ago would have it: at every step, the power of that
    over the next frames, the same over the last period, and the power of the sound around.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    lags
        The period at every hop, in frames; 0 where there is none.
    hop, step, ahead
        In frames: from lag to lag, from answer to answer, and how far is looked.

    Returns
    -------
    ndarray
        Three powers at every step, shape (steps, 3).

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 60 * np.arange(3000) / 6000)
    >>> news = surprise(x, np.full(100, 100.0), 30, 6, 48)
    >>> bool(news[200, 0] < 1e-6 < news[200, 2])
    True
    """
    count = x.size // step
    out = np.zeros((count, 3))
    most = lags.size - 1
    for m in range(count):
        n = m * step
        # The lag of a frame that has seen nothing of what comes.
        lag = lags[min(max(int((n - 0.03 * hop * 200) / hop), 0), most)]
        if lag <= 0.0:
            continue
        whole, part = int(lag), lag - int(lag)
        if n - 2 * whole - 4 < 0 or n + ahead >= x.size:
            continue
        cross = own = 0.0
        for k in range(n - whole, n):
            past = (1 - part) * x[k - whole] + part * x[k - whole - 1]
            cross += x[k] * past
            own += past * past
        gain = min(max(cross / own, 0.0), 1.2) if own > 0.0 else 0.0
        before = energy = 0.0
        for k in range(n - whole, n):
            past = (1 - part) * x[k - whole] + part * x[k - whole - 1]
            before += (x[k] - gain * past) ** 2
            energy += x[k] * x[k]
        # What only fades goes on repeating itself: it is met with a gain of its own.
        coming = later = cross = own = 0.0
        for k in range(n, n + ahead):
            past = (1 - part) * x[k - whole] + part * x[k - whole - 1]
            cross += x[k] * past
            own += past * past
        gain = min(max(cross / own, 0.0), 1.3) if own > 0.0 else 0.0
        for k in range(n, n + ahead):
            past = (1 - part) * x[k - whole] + part * x[k - whole - 1]
            coming += (x[k] - gain * past) ** 2
            later += x[k] * x[k]
        out[m, 0] = coming / ahead
        out[m, 1] = before / whole
        out[m, 2] = max(energy / whole, later / ahead)
    return out

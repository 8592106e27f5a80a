"""Least-squares fit of a damped, sweeping tone with harmonics (compiled).

The model, over a window that starts at t = 0::

    f(t)   = f_end * exp(bend * g(t))                          Hz
    g(t)   = (1 + form * t / tau) ** (-1 / form)               1 at the start, 0 at the end
    phi(t) = 2 pi * integral of f
    x(t)   = env(t) * exp(-(a t + b t^2)) * [c1 cos phi + s1 sin phi]
           + harmonics 2 and 3, each once in step with the fundamental and once with its
             h-th power (a driven wave loses its harmonics faster than its fundamental)
           + an offset in step with env^2 (what asymmetric drive leaves)

or, for a sweep that is made in hertz rather than in pitch::

    f(t)   = f_end * (1 + (exp(bend) - 1) * g(t))

`form` lets one family hold every usual sweep: 0 is an exponential, -1 a straight ramp that
ends, -1/3 a cubic ease, +1/3 a hyperbolic fall with its long tail; a two-stage sweep comes
close with a small positive one. A later window of the same sweep has the same form.

`env` is a smooth envelope measured beforehand, so that any amplitude shape is followed;
a and b correct it. Linear and nonlinear parameters are refined together by a damped
Gauss-Newton iteration, the linear ones solved anew at each trial, which for separable
problems is variable projection (Golub & Pereyra, SIAM J. Numer. Anal. 10, 1973). The formal
covariance at the optimum is the Cramer-Rao bound for damped tones when the residual is
white (Yao & Pandit, IEEE Trans. Signal Processing 43, 1995).
"""

# mypy: disable-error-code="no-untyped-def"
import numba as nb
import numpy as np

# The nonlinear parameters come first, in this order; the linear ones follow.
LN_HZ, BEND, LN_TAU, FORM, SLOPE, CURVE = range(6)
NONLINEAR = 6
LINEAR = 11
SIZE = NONLINEAR + LINEAR
# What arrays are compiled for: vectors and matrices.
_V, _M = nb.float64[::1], nb.float64[:, ::1]
# Sweeps of other forms than exponential are believed only as far as the samples ask for it.
_FORM_SPREAD = 0.5
_RIDGE = 1.002
# Nodes within which a sweep falls by its time constant; how many samples they are apart at most.
_NODES, _MOST_APART = 16.0, 16
# A fit may not wander to another partial: about three semitones either way.
HZ_REACH = 0.18


@nb.njit(
    (nb.float64, nb.float64, nb.float64, nb.float64, nb.boolean), cache=True, fastmath=True, nogil=True
)
def _sweep(t, bend, tau, form, in_hertz):
    """Relative frequency at `t` and its derivatives by bend, ln tau and form."""
    x = t / tau
    u = 1.0 + form * x
    if u <= 1e-6:
        return 1.0, 0.0, 0.0, 0.0
    if abs(form) > 1e-3:
        ln_u = np.log(u)
        g = np.exp(-ln_u / form)
        g_form = g * (ln_u / (form * form) - x / (form * u))
    else:
        g = np.exp(-x + 0.5 * form * x * x)
        g_form = g * x * x * (0.5 - 2.0 / 3.0 * form * x)
    if in_hertz:
        top = np.exp(bend)
        rise = top - 1.0
        return 1.0 + rise * g, top * g, rise * g * x / u, rise * g_form
    f = np.exp(bend * g)
    return f, f * g, f * bend * g * x / u, f * bend * g_form


@nb.njit((nb.float64, nb.float64), cache=True, fastmath=True, nogil=True)
def _series(z, first):
    """The alternating series 1 - z / (first (first + 1)) + ... of cosine (1) or of sine over x (2)."""
    total = 1.0
    for k in range(8, -1, -1):
        n = first + 2.0 * k
        total = 1.0 - z / (n * (n + 1.0)) * total
    return total


@nb.njit((_V, nb.float64, _V, _M, nb.boolean), cache=True, fastmath=True, nogil=True)
def _phases(t, step, params, rows, in_hertz):
    """The integral of the relative frequency into `rows[0]`, its slopes into `rows[1:4]`.

    Simpson's rule from node to node, as close as the sweep is steep, and between them the cubic whose
    slopes at both nodes are what is integrated: within 1e-6 of a turn.
    """
    bend, tau, form = params[1], np.exp(params[2]), params[3]
    if bend == 0.0:
        for i in range(t.size):
            rows[0, i] = t[i]
        rows[1:4] = 0.0
        return
    apart = min(max(int(tau / (step * _NODES * (1.0 + abs(bend)))), 1), _MOST_APART)
    at = np.zeros(4)
    rows[:4, 0] = 0.0
    before = _sweep(0.0, bend, tau, form, in_hertz)
    for first in range(0, t.size - 1, apart):
        span = step * apart
        middle = _sweep(t[first] + 0.5 * span, bend, tau, form, in_hertz)
        after = _sweep(t[first] + span, bend, tau, form, in_hertz)
        for k in range(4):
            whole = span / 6 * (before[k] + 4 * middle[k] + after[k])
            for i in range(1, min(apart, t.size - 1 - first) + 1):
                x = i / apart
                y = 1.0 - x
                rows[k, first + i] = at[k] + (
                    whole * x * x * (3.0 - 2.0 * x) + span * x * y * (before[k] * y - after[k] * x)
                )
            at[k] += whole
        before = after


@nb.njit(
    (_V, _V, _V, _V, _M, nb.boolean),
    cache=True,
    fastmath=True,
    nogil=True,
)
def _fill_columns(t, amplitude, power, params, rows, in_hertz):
    """Linear columns into `rows[6:]`; phase and its slopes, for later, into `rows[:4]`."""
    step = t[1] - t[0]
    _phases(t, step, params, rows, in_hertz)
    # exp(-(a t + b t^2)), from sample to sample: its ratio falls by the same factor every time.
    shape = 1.0
    ratio = np.exp(-(params[4] * step + params[5] * step * step))
    factor = np.exp(-2.0 * params[5] * step * step)
    for i in range(t.size):
        rows[4, i] = shape * amplitude[i]
        shape *= ratio
        ratio *= factor
    f_end = np.exp(params[0])
    for i in range(t.size):
        turns = f_end * rows[0, i]
        # Sine and cosine of half the angle, within a quarter turn, by their series to 1e-13: so that the
        # compiler does several samples at once.
        x = np.pi * (turns - np.floor(turns + 0.5))
        z = x * x
        s = x * _series(z, 2.0)
        c = _series(z, 1.0)
        c1 = 1.0 - 2.0 * s * s
        s1 = 2.0 * s * c
        c2 = c1 * c1 - s1 * s1
        s2 = 2 * s1 * c1
        c3 = c2 * c1 - s2 * s1
        s3 = s2 * c1 + c2 * s1
        shape = rows[4, i]
        p1 = power[i]
        p2 = p1 * p1
        rows[6, i] = shape * c1
        rows[7, i] = shape * s1
        rows[8, i] = shape * c2
        rows[9, i] = shape * s2
        rows[10, i] = shape * p1 * c2
        rows[11, i] = shape * p1 * s2
        rows[12, i] = shape * c3
        rows[13, i] = shape * s3
        rows[14, i] = shape * p2 * c3
        rows[15, i] = shape * p2 * s3
        rows[16, i] = shape * p1


@nb.njit(
    (_V, _V, _V, _M, _V),
    cache=True,
    fastmath=True,
    nogil=True,
)
def _finish(t, params, q, rows, model):
    """The model from its columns, and the slopes of the nonlinear parameters in place."""
    scale = 2.0 * np.pi * np.exp(params[0])
    model[:] = 0.0
    for j in range(LINEAR):
        for i in range(t.size):
            model[i] += q[j] * rows[NONLINEAR + j, i]
    for i in range(t.size):
        by_phase = scale * (
            (q[1] * rows[6, i] - q[0] * rows[7, i])
            + 2.0 * (q[3] * rows[8, i] - q[2] * rows[9, i])
            + 2.0 * (q[5] * rows[10, i] - q[4] * rows[11, i])
            + 3.0 * (q[7] * rows[12, i] - q[6] * rows[13, i])
            + 3.0 * (q[9] * rows[14, i] - q[8] * rows[15, i])
        )
        for a in range(4):
            rows[a, i] *= by_phase
        rows[4, i] = -t[i] * model[i]
        rows[5, i] = -t[i] * t[i] * model[i]


@nb.njit(
    (_M, _V, nb.int64, nb.int64, _M, _V),
    cache=True,
    fastmath=True,
    nogil=True,
)
def _normal(rows, residual, first, last, matrix, right):
    """Normal equations of the weighted columns from `first` on, without products of two that lie beyond
    `last`.
    """
    frames = rows.shape[1]
    for a in range(first, SIZE):
        total = 0.0
        for i in range(frames):
            total += rows[a, i] * residual[i]
        right[a] = total
        for b in range(first, min(a + 1, last)):
            total = 0.0
            for i in range(frames):
                total += rows[a, i] * rows[b, i]
            matrix[a, b] = matrix[b, a] = total


@nb.njit((_M, _V, nb.int64, _V), cache=True, fastmath=True, nogil=True)
def _solve(matrix, right, first, x):
    """Solution of the symmetric block from `first` on by its factors L D L', which stand in rows as memory
    has them; False if it is not positive.
    """
    size = matrix.shape[0]
    rows = matrix.copy()
    rest = right.copy()
    for k in range(first, size):
        if not rows[k, k] > 0.0:
            return False
        x[k] = 1.0 / rows[k, k]
        share = rest[k] * x[k]
        for b in range(k + 1, size):
            rest[b] -= share * rows[k, b]
        for a in range(k + 1, size):
            share = rows[k, a] * x[k]
            for b in range(a, size):
                rows[a, b] -= share * rows[k, b]
    for a in range(size - 1, first - 1, -1):
        total = rest[a]
        for b in range(a + 1, size):
            total -= rows[a, b] * x[b]
        x[a] *= total
    return True


@nb.njit(
    (_V, _V, _V, _V, _V, _V, _M, _V, _M, _M, _V, _V, nb.boolean),
    cache=True,
    nogil=True,
)
def _evaluate(t, y, amplitude, power, params, q, rows, model, matrix, held, right, x, in_hertz):
    """Fill `rows`, `model`, the products of the linear columns in `matrix` and the best linear coefficients
    `q`; return the cost.
    """
    _fill_columns(t, amplitude, power, params, rows, in_hertz)
    _normal(rows, y, NONLINEAR, SIZE, matrix, right)
    # All but the fundamental are held a little towards zero: under a flat envelope the
    # second copies are the same columns again, in a short window nearly so.
    held[:, :] = matrix
    for a in range(NONLINEAR, SIZE):
        held[a, a] = held[a, a] * (_RIDGE if a > NONLINEAR + 1 else 1.0 + 1e-9) + 1e-12
    if not _solve(held, right, NONLINEAR, x):
        return np.inf
    for j in range(LINEAR):
        q[j] = x[NONLINEAR + j]
    _finish(t, params, q, rows, model)
    cost = 0.0
    for i in range(t.size):
        r = y[i] - model[i]
        cost += r * r
    return cost + (params[3] / _FORM_SPREAD) ** 2


@nb.njit((_M, _V, _V, nb.boolean[::1]), cache=True, nogil=True)
def _hold(matrix, right, params, free):
    matrix[3, 3] += 1.0 / _FORM_SPREAD**2
    right[3] -= params[3] / _FORM_SPREAD**2
    for a in range(NONLINEAR):
        if not free[a]:
            for b in range(SIZE):
                matrix[a, b] = 0.0
                matrix[b, a] = 0.0
            matrix[a, a] = 1.0
            right[a] = 0.0


@nb.njit(
    (_V, _V, _V, _V, _V, _V, nb.boolean[::1], nb.float64, nb.float64, nb.int64, nb.boolean),
    cache=True,
    nogil=True,
)
def fit(t, y, env, power, weight, start, free, tau_min, tau_max, iterations, in_hertz):
    """Refine `start`, the six nonlinear parameters, of which `free` says which may move.

    Arrays have shape (frames,).

    Parameters
    ----------
    t, y
        Seconds from the window's start; samples.
    env, power
        The measured envelope; the same over its value at the window's start.
    weight
        One over the standard deviation to expect of each sample.
    start
        Six parameters.
    free
        Which of them may move.
    tau_min, tau_max
        Least and longest time of the decay, s.
    iterations
        At most.
    in_hertz
        Whether the sweep falls in Hz rather than in octaves.

    Returns
    -------
    tuple
        The parameters (6,), the linear coefficients (11,), the weighted residual (frames,), the cost (its
        sum of squares) and the formal variance of ln f_end for a residual of unit variance; the cost is
        infinite where no solution exists.

    Examples
    --------
    >>> t = np.arange(4800) / 48000.0
    >>> level = np.exp(-t / 0.1)
    >>> y = level * np.sin(2 * np.pi * 55.0 * t)
    >>> start = np.array([np.log(56.0), 0.0, np.log(0.03), 0.0, 0.0, 0.0])
    >>> free = np.array([True, False, False, False, False, False])
    >>> found = fit(t, y, level, level, np.ones(t.size), start, free, 0.003, 0.06, 14, False)
    >>> round(float(np.exp(found[0][0])), 2)
    55.0
    """
    n = t.size
    y = y * weight
    amplitude = env * weight
    rows = np.zeros((SIZE, n))
    model = np.zeros(n)
    trial_rows = np.zeros((SIZE, n))
    trial_model = np.zeros(n)
    matrix = np.zeros((SIZE, SIZE))
    trial_matrix = np.zeros((SIZE, SIZE))
    damped = np.zeros((SIZE, SIZE))
    right = np.zeros(SIZE)
    linear = np.zeros(SIZE)
    x = np.zeros(SIZE)
    params = start.copy()
    trial = start.copy()
    q = np.zeros(LINEAR)
    trial_q = np.zeros(LINEAR)
    ln_min, ln_max = np.log(tau_min), np.log(tau_max)
    low_hz, high_hz = start[0] - HZ_REACH, start[0] + HZ_REACH
    params[2] = min(max(params[2], ln_min), ln_max)
    cost = _evaluate(t, y, amplitude, power, params, q, rows, model, matrix, damped, right, x, in_hertz)
    damping = 1e-3
    for _ in range(iterations):
        if not np.isfinite(cost):
            break
        _normal(rows, y - model, 0, NONLINEAR, matrix, right)
        _hold(matrix, right, params, free)
        better = False
        new_cost = cost
        for _attempt in range(6):
            damped[:, :] = matrix
            for a in range(SIZE):
                damped[a, a] = damped[a, a] * (1.0 + (damping if a < NONLINEAR else 1e-7)) + 1e-12
            if _solve(damped, right, 0, x):
                # No step may leave the neighbourhood in which the linearisation holds.
                limit = max(
                    1.0,
                    abs(x[0]) / 0.1,
                    abs(x[1]) / 0.5,
                    abs(x[2]) / 0.7,
                    abs(x[3]) / 0.4,
                    abs(x[4]) / 60.0,
                )
                for a in range(NONLINEAR):
                    trial[a] = params[a] + x[a] / limit
                trial[0] = min(max(trial[0], low_hz), high_hz)
                trial[2] = min(max(trial[2], ln_min), ln_max)
                trial[1] = min(max(trial[1], -2.0), 3.5)
                trial[3] = min(max(trial[3], -1.1), 1.0)
                new_cost = _evaluate(
                    t, y, amplitude, power, trial, trial_q,
                    trial_rows, trial_model, trial_matrix, damped, linear, x, in_hertz,
                )  # fmt: skip
                if new_cost < cost:
                    better = True
                    break
            damping *= 8.0
        if not better:
            break
        gain = (cost - new_cost) / cost
        params[:] = trial
        q[:] = trial_q
        rows, trial_rows = trial_rows, rows
        model, trial_model = trial_model, model
        matrix, trial_matrix = trial_matrix, matrix
        cost = new_cost
        damping = max(damping * 0.2, 1e-9)
        if gain < 1e-3:
            break
    variance = np.inf
    if np.isfinite(cost):
        _normal(rows, y - model, 0, NONLINEAR, matrix, right)
        _hold(matrix, right, params, free)
        for a in range(SIZE):
            matrix[a, a] = matrix[a, a] * (1 + 1e-9) + 1e-12
        right[:] = 0.0
        right[0] = 1.0
        if _solve(matrix, right, 0, x):
            variance = x[0]
    return params, q, y - model, cost, variance


@nb.njit((_V, _V, _V), cache=True, fastmath=True, nogil=True)
def left_over(residual, weight, y):
    """How far a weighted residual hangs together (its correlation with itself a sample later),
    and what share of the energy of `y` it is once the weight is taken off.

    Parameters
    ----------
    residual
        Weighted, shape (frames,).
    weight
        Of every frame.
    y
        Samples, shape (frames,).

    Returns
    -------
    tuple of float
        The correlation, and the share.

    Examples
    --------
    >>> left_over(np.ones(8), np.ones(8), np.ones(8))[1]
    1.0
    """
    mean = np.mean(residual)
    apart = squares = unexplained = energy = 0.0
    for i in range(residual.size):
        centred = residual[i] - mean
        squares += centred * centred
        if i:
            apart += centred * (residual[i - 1] - mean)
        plain = residual[i] / weight[i]
        unexplained += plain * plain
        energy += y[i] * y[i]
    return apart / max(squares, 1e-30), unexplained / max(energy, 1e-30)

// The dear kernels as plain C++ loops over f32, to say how far ours are from what the machine can do.
// Built and run by ./tangle bench --kernels; prints nanoseconds per particle, a line each.
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <vector>

using f32 = float;
using Column = std::vector<f32>;
static const uint32_t PRIME_X = 0x2c1b3c6d, PRIME_Y = 0x297a2d39, PRIME_Z = 0x1b56c4e9;

static double now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

// curl of simplex noise: the formulas of packages/kernels/assembly/noise.ts
__attribute__((noinline)) static void curlNoise(int count, const f32 *__restrict amount, f32 *__restrict acceleration,
                                                const f32 *__restrict position, const f32 *__restrict gradients, int octaves,
                                                f32 frequency, f32 amplitude) {
#pragma omp simd
  for (int i = 0; i < count; i++) {
    f32 sumX = 0, sumY = 0, sumZ = 0, f = frequency, gain = amplitude * amount[i];
    for (int octave = 0; octave < octaves; octave++) {
      const f32 *table = gradients + octave * 1024;
      f32 x = position[3 * i] * f + 0.5f, y = position[3 * i + 1] * f + 0.5f, z = position[3 * i + 2] * f + 0.5f;
      f32 skew = (x + y + z) * (1.0f / 3);
      f32 fx = floorf(x + skew), fy = floorf(y + skew), fz = floorf(z + skew), back = (fx + fy + fz) * (1.0f / 6);
      f32 x0 = x - fx + back, y0 = y - fy + back, z0 = z - fz + back;
      uint32_t hx = (uint32_t)(int32_t)fx * PRIME_X, hy = (uint32_t)(int32_t)fy * PRIME_Y, hz = (uint32_t)(int32_t)fz * PRIME_Z;
      int xy = x0 >= y0, xz = x0 >= z0, yz = y0 >= z0;
      int rankX = xy + xz, rankY = 1 - xy + yz, rankZ = 2 - xz - yz;
      f32 ux = 0, uy = 0, uz = 0;
      for (int corner = 0; corner < 4; corner++) {
        int ix = ((rankX + corner) * 11) >> 5, iy = ((rankY + corner) * 11) >> 5, iz = ((rankZ + corner) * 11) >> 5;
        f32 shift = corner * (1.0f / 6);
        f32 dx = x0 - ix + shift, dy = y0 - iy + shift, dz = z0 - iz + shift;
        f32 squared = dx * dx + dy * dy + dz * dz, t = std::max(0.5f - squared, 0.0f);
        uint32_t h = (hx + (PRIME_X & -(uint32_t)ix)) + (hy + (PRIME_Y & -(uint32_t)iy)) + (hz + (PRIME_Z & -(uint32_t)iz));
        h = (h ^ (h >> 15)) * PRIME_X;
        h = (h ^ (h >> 13)) * PRIME_Y;
        const f32 *q = table + ((h ^ (h >> 16)) & 255) * 4;
        f32 t3 = t * t * t, dot = dx * q[0] + dy * q[1] + dz * q[2];
        f32 alongQ = t3 * (2 * t - 8 * squared), alongD = 8 * t3 * dot;
        ux += alongQ * q[0] + alongD * dx;
        uy += alongQ * q[1] + alongD * dy;
        uz += alongQ * q[2] + alongD * dz;
      }
      sumX += gain * ux;
      sumY += gain * uy;
      sumZ += gain * uz;
      f *= 2;
      gain *= 0.5f;
    }
    acceleration[3 * i] += sumX;
    acceleration[3 * i + 1] += sumY;
    acceleration[3 * i + 2] += sumZ;
  }
}

__attribute__((noinline)) static void drift(int count, f32 *__restrict position, f32 *__restrict start,
                                            const f32 *__restrict velocity, const f32 *__restrict age, f32 h) {
#pragma omp simd
  for (int i = 0; i < count; i++) {
    f32 rest = age[i] < 0 ? h + age[i] : h;
    for (int axis = 0; axis < 3; axis++) {
      int k = 3 * i + axis;
      start[k] = position[k];
      position[k] += velocity[k] * 0.5f * rest;
    }
  }
}

__attribute__((noinline)) static void integrate(int count, f32 *__restrict position, const f32 *__restrict start,
                                                f32 *__restrict velocity, const f32 *__restrict acceleration,
                                                const f32 *__restrict damping, f32 *__restrict age, f32 *__restrict phaseAge,
                                                f32 *__restrict travelled, f32 h, f32 limit) {
#pragma omp simd
  for (int i = 0; i < count; i++) {
    f32 z = damping[i] * h, e = expf(-z);
    f32 phi1 = z > 1e-3f ? (1 - e) / z : 1 - z * 0.5f, phi2 = z > 1e-2f ? (1 - phi1) / z : 0.5f - z / 6;
    f32 squared = 0, moved = 0;
    for (int axis = 0; axis < 3; axis++) {
      int k = 3 * i + axis;
      f32 step = velocity[k] * h * phi1 + acceleration[k] * h * h * phi2;
      f32 after = velocity[k] * e + acceleration[k] * h * phi1;
      position[k] = start[k] + step;
      velocity[k] = after;
      squared += after * after;
      moved += step * step;
    }
    f32 scale = squared > limit * limit ? limit / sqrtf(squared) : 1;
    for (int axis = 0; axis < 3; axis++) velocity[3 * i + axis] *= scale;
    travelled[i] += sqrtf(moved);
    age[i] += h;
    phaseAge[i] += h;
  }
}

__attribute__((noinline)) static void startForces(int count, const int *__restrict phase, const f32 *__restrict even,
                                                  f32 *__restrict acceleration, f32 *__restrict damping) {
#pragma omp simd
  for (int i = 0; i < count; i++) {
    const f32 *row = even + 4 * phase[i];
    for (int axis = 0; axis < 3; axis++) acceleration[3 * i + axis] = row[axis];
    damping[i] = row[3];
  }
}

// weight of the phase times a curve of keys: x, y, ease and 1 over the distance to the next
static inline f32 eased(int ease, f32 t) { return ease == 0 ? t : ease == 1 ? t * t * (3 - 2 * t) : ease == 2 ? 0 : t * t; }
__attribute__((noinline)) static void amounts(int count, const int *__restrict phase, const f32 *__restrict weights,
                                              const f32 *__restrict source, const f32 *__restrict keys, int keyCount,
                                              f32 *__restrict amount) {
#pragma omp simd
  for (int i = 0; i < count; i++) {
    f32 x = source[i], value = keys[1];
    for (int k = 0; k + 1 < keyCount; k++) {
      const f32 *key = keys + 4 * k;
      f32 between = key[1] + (key[5] - key[1]) * eased((int)key[2], (x - key[0]) * key[3]);
      value = x > key[0] ? x >= key[4] ? key[5] : between : value;
    }
    amount[i] = weights[phase[i]] * value;
  }
}

// who lies within `reach` (one cell) of each, listed: particles sorted into a dense grid from −2 to 2, one after the other
__attribute__((noinline)) static void neighbours(int count, const f32 *__restrict position, f32 reach, int most,
                                                 std::vector<int> &lists, f32 *__restrict found) {
  int side = (int)ceilf(4 / reach), cells = side * side * side;
  auto cellOf = [&](f32 x) { return std::min(std::max((int)((x + 2) / reach), 0), side - 1); };
  std::vector<int> first(cells + 1), keys(count), order(count);
  Column x(count), y(count), z(count);
  for (int i = 0; i < count; i++) {
    keys[i] = (cellOf(position[3 * i + 2]) * side + cellOf(position[3 * i + 1])) * side + cellOf(position[3 * i]);
    first[keys[i] + 1]++;
  }
  for (int c = 0; c < cells; c++) first[c + 1] += first[c];
  std::vector<int> next(first.begin(), first.end() - 1);
  for (int i = 0; i < count; i++) {
    int e = next[keys[i]]++;
    order[e] = i, x[e] = position[3 * i], y[e] = position[3 * i + 1], z[e] = position[3 * i + 2];
  }
  for (int cell = 0; cell < cells; cell++) {
    int cx = cell % side, cy = cell / side % side, cz = cell / side / side;
    for (int i = first[cell]; i < first[cell + 1]; i++) {
      int *list = &lists[(size_t)i * most], *to = list;
      for (int nz = std::max(cz - 1, 0); nz <= std::min(cz + 1, side - 1); nz++)
        for (int ny = std::max(cy - 1, 0); ny <= std::min(cy + 1, side - 1); ny++) {
          int row = (nz * side + ny) * side;
          int last = first[row + std::min(cx + 1, side - 1) + 1];
          for (int e = first[row + std::max(cx - 1, 0)]; e < last; e++) {
            f32 dx = x[e] - x[i], dy = y[e] - y[i], dz = z[e] - z[i];
            *to = e;
            to += (dx * dx + dy * dy + dz * dz <= reach * reach) & (e != i);
          }
        }
      found[order[i]] = to - list;
    }
  }
}

int main(int, char **arguments) {
  int count = atoi(arguments[1]);
  srand(1);
  auto drawn = [](size_t size, f32 low, f32 high) {
    Column column(size);
    for (f32 &x : column) x = low + (high - low) * (rand() / (f32)RAND_MAX);
    return column;
  };
  Column position = drawn(3 * count, -2, 2), velocity = drawn(3 * count, -0.5f, 0.5f), acceleration(3 * count), start = position;
  Column amount(count, 1), damping(count, 0.5f), age(count, 1), phaseAge(count, 1), travelled(count), source = drawn(count, 0, 1);
  Column gradients = drawn(1024 * 8, -1, 1), even(16, 0.1f), weights(4, 1), keys;
  for (int k = 0; k < 5; k++)
    for (f32 value : {0.25f * k, (f32)k, 1.0f, 4.0f}) keys.push_back(value);
  std::vector<int> phase(count);
  auto bench = [&](const char *name, auto work) {
    std::vector<double> times;
    for (int run = 0; run < 15; run++) {
      double from = now();
      work();
      times.push_back((now() - from) * 1e9 / count);
    }
    std::sort(times.begin(), times.end());
    printf("%s %.3f\n", name, times[7]);
  };
  bench("curlNoise", [&] { curlNoise(count, amount.data(), acceleration.data(), position.data(), gradients.data(), 3, 1, 1); });
  std::fill(acceleration.begin(), acceleration.end(), 0.1f);
  bench("motion", [&] {
    drift(count, position.data(), start.data(), velocity.data(), age.data(), 0.01f);
    integrate(count, position.data(), start.data(), velocity.data(), acceleration.data(), damping.data(), age.data(),
              phaseAge.data(), travelled.data(), 0.01f, 1e6f);
  });
  bench("startForces", [&] { startForces(count, phase.data(), even.data(), acceleration.data(), damping.data()); });
  bench("amounts", [&] { amounts(count, phase.data(), weights.data(), source.data(), keys.data(), 5, amount.data()); });
  Column strewn = drawn(3 * count, -2, 2), found(count);
  f32 reach = cbrtf(64 * 7.0f / count);
  std::vector<int> lists((size_t)count * 128);
  bench("neighbours", [&] { neighbours(count, strewn.data(), reach, 128, lists, found.data()); });
  f32 sum = found[0];
  for (f32 x : position) sum += x;
  for (f32 x : amount) sum += x;
  fprintf(stderr, "%g\n", sum);
}

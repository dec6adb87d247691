#include "field/field.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace acre {
namespace {

constexpr int kMost = Kernels::kMostPoints;
constexpr std::pair kEndless{
    -std::numeric_limits<float>::infinity(), std::numeric_limits<float>::infinity()};

/// Room for places that were moved.
struct Moved {
  int64_t cell[3][kMost];
  int32_t q[3][kMost];

  Accuracy accuracy = Accuracy::Exact;
  const std::stop_token* stop = nullptr;

  Points points(int count) const {
    return {count, {cell[0], cell[1], cell[2]}, {q[0], q[1], q[2]}, accuracy, stop};
  }
  void set(int axis, int i, int64_t c, int64_t fraction) {
    cell[axis][i] = c + (fraction >> 16);
    q[axis][i] = static_cast<int32_t>(fraction & 0xFFFF);
  }
};

void shiftPoints(const Points& from, int dims, const Pos* shift, Moved& to) {
  for (int n = 0; n < dims; ++n) {
    const int a = dimAxis(dims, n);
    for (int i = 0; i < from.count; ++i)
      to.set(a, i, from.cell[a][i] + shift[a].cell, int64_t{from.q[a][i]} + shift[a].q);
  }
}

/// Moves the places of one axis by warp noise.
void displace(const Kernels& kernels, const FieldStep::Warp& warp, const Points& from, int axis,
    const float* noise, Moved& to) {
  kernels.shift(
      from.cell[axis], from.q[axis], noise, warp.cells, from.count, to.cell[axis], to.q[axis]);
}

/// The passes of a warp from number `first` on. Each moves the original places by the noise found
/// where the one before has led.
void warpPoints(const Kernels& kernels, const FieldStep::Warp& warp, const Points& from, int dims,
    int first, Moved& to) {
  float noise[3][kMost];
  for (int pass = first; pass < warp.passes; ++pass) {
    const Points at = pass == 0 ? from : to.points(from.count);
    kernels.points(warp.x, at, noise[kX]);
    if (dims > 1) kernels.points(warp.z, at, noise[kZ]);
    if (dims > 2) kernels.points(warp.y, at, noise[kY]);
    for (int n = 0; n < dims; ++n) {
      const int a = dimAxis(dims, n);
      displace(kernels, warp, from, a, noise[a], to);
    }
  }
}

/// Cells from a point, in double: the difference of cells first, exactly.
double cellsFrom(const Points& places, int axis, int i, const Pos& from) {
  return static_cast<double>(places.cell[axis][i] - from.cell) +
         static_cast<double>(places.q[axis][i] - from.q) / 65536.0;
}

void aboveSea(float* heights, int count, float sea) {
  for (int i = 0; i < count; ++i) {
    const float above = heights[i] - sea;
    heights[i] = above > 0 ? above : 0.0f;
  }
}

double unit(double v) {
  return v < 0 ? 0 : (v > 1 ? 1 : v);
}

double pictureAt(const FieldStep::Picture& p, double u, double v) {
  const auto grey = [&](double column, double row) {
    const auto fit = [&](double k, int count) -> int {
      if (p.outside == PictureSource::Outside::Repeat) {
        const double wrapped = k - std::floor(k / count) * count;
        return static_cast<int>(wrapped < 0 ? 0 : (wrapped >= count ? 0 : wrapped));
      }
      if (k < 0 || k >= count) {
        if (p.outside == PictureSource::Outside::Value) return -1;
        return k < 0 ? 0 : count - 1;
      }
      return static_cast<int>(k);
    };
    const int i = fit(column, p.grey->width), j = fit(row, p.grey->height);
    if (i < 0 || j < 0) return double{p.outsideValue};
    return p.grey->pixels[static_cast<size_t>(j) * static_cast<size_t>(p.grey->width) +
                          static_cast<size_t>(i)] /
           65535.0;
  };
  if (!p.smooth) return grey(std::floor(u + 0.5), std::floor(v + 0.5));
  const double i = std::floor(u), j = std::floor(v);
  const double fu = u - i, fv = v - j;
  const double upper = grey(i, j) + fu * (grey(i + 1, j) - grey(i, j));
  const double lower = grey(i, j + 1) + fu * (grey(i + 1, j + 1) - grey(i, j + 1));
  return upper + fv * (lower - upper);
}

/// Layers that a kernel can join to the sum by itself.
std::optional<Join> kernelJoin(const FieldStep& step) {
  if (!std::holds_alternative<NoisePlan>(step.value) || step.warp || step.distribution ||
      step.curve || step.clamp || step.mask)
    return {};
  switch (step.combine) {
    case Combine::Add:
      return Join{JoinOp::Add, step.amplitude, step.offset};
    case Combine::Subtract:  // Negation is exact: the same bits as subtracting.
      return Join{JoinOp::Add, -step.amplitude, 0.0f - step.offset};
    case Combine::Multiply:
      return Join{JoinOp::Multiply, step.amplitude, step.offset};
    case Combine::Minimum:
      return Join{JoinOp::Minimum, step.amplitude, step.offset};
    case Combine::Maximum:
      return Join{JoinOp::Maximum, step.amplitude, step.offset};
    case Combine::Replace:
      return Join{JoinOp::Replace, step.amplitude, step.offset};
    default:
      return {};
  }
}

}  // namespace

// ---- one layer ---------------------------------------------------------------------------------

void Field::sourcePoints(const Kernels& kernels, const FieldStep& step, const Points& places,
    const float* before, float* out) const {
  Moved moved;
  moved.accuracy = places.accuracy;
  moved.stop = places.stop;
  Points at = places;
  if (step.warp) {
    warpPoints(kernels, *step.warp, places, dims_, 0, moved);
    at = moved.points(places.count);
  }
  sourceAt(kernels, step, at, before, out);
}

void Field::sourceAt(const Kernels& kernels, const FieldStep& step, const Points& places,
    const float* before, float* out) const {
  Moved moved;
  moved.accuracy = places.accuracy;
  moved.stop = places.stop;
  Points at = places;
  if (const auto* plan = std::get_if<NoisePlan>(&step.value)) return kernels.points(*plan, at, out);
  const bool shifted =
      std::any_of(step.shift, step.shift + 3, [](const Pos& s) { return s.cell != 0 || s.q != 0; });
  if (shifted) {
    shiftPoints(at, dims_, step.shift, moved);
    at = moved.points(places.count);
  }
  struct Visit {
    const Kernels& kernels;
    const Points& at;
    const float* before;
    float* out;

    void operator()(const NoisePlan&) const {}
    void operator()(float value) const { std::fill_n(out, at.count, value); }
    void operator()(const FieldStep::Ramp& r) const {
      for (int i = 0; i < at.count; ++i)
        out[i] = static_cast<float>(unit(cellsFrom(at, r.axis, i, r.from) / r.length));
    }
    void operator()(const FieldStep::Distance& d) const {
      for (int i = 0; i < at.count; ++i) {
        const double x = cellsFrom(at, kX, i, d.at.x), z = cellsFrom(at, kZ, i, d.at.z);
        out[i] = static_cast<float>(unit(std::sqrt(x * x + z * z) / d.reach));
      }
    }
    void operator()(const FieldStep::Island& s) const {
      if (s.wobble != 0.0f)
        kernels.points(s.outline, at, out);
      else
        std::fill_n(out, at.count, 0.0f);
      for (int i = 0; i < at.count; ++i) {
        const double x = std::abs(cellsFrom(at, kX, i, s.at.x));
        const double z = std::abs(cellsFrom(at, kZ, i, s.at.z));
        const double away = s.square ? std::max(x, z) : std::sqrt(x * x + z * z);
        const double outline = s.radius + static_cast<double>(out[i] * s.wobble);
        out[i] = static_cast<float>(unit((outline - away) / s.edge + 0.5));
      }
    }
    void operator()(const FieldStep::Picture& p) const {
      for (int i = 0; i < at.count; ++i)
        out[i] = static_cast<float>(pictureAt(
            p, cellsFrom(at, kX, i, p.at.x) / p.scale, cellsFrom(at, kZ, i, p.at.z) / p.scale));
    }
    void operator()(const std::shared_ptr<const Field>& field) const {
      field->points(kernels, at, out);
    }
    void operator()(const FieldStep::Terrace& t) const {
      for (int i = 0; i < at.count; ++i) {
        const float steps = before[i] / t.height;
        const float foot = std::floor(steps);
        const float way = steps - foot;
        const float rise = way < t.flat ? 0.0f : (way - t.flat) / (1.0f - t.flat);
        out[i] = (foot + rise) * t.height;
      }
    }
    void operator()(const FieldStep::Fold& f) const {
      for (int i = 0; i < at.count; ++i) out[i] = std::abs(before[i] - f.centre);
    }
    void operator()(const FieldStep::Rescale& r) const {
      for (int i = 0; i < at.count; ++i) out[i] = (before[i] - r.from) * r.factor + r.to;
    }
    void operator()(const FieldStep::Sum&) const { std::copy_n(before, at.count, out); }
    void operator()(const FieldStep::Latitude& l) const {
      for (int i = 0; i < at.count; ++i)
        out[i] = static_cast<float>(unit(std::abs(cellsFrom(at, kZ, i, l.equator)) / l.reach));
    }
    void operator()(const FieldStep::Altitude& a) const {
      a.heights->points(kernels, at, out);
      aboveSea(out, at.count, a.sea);
    }
    void operator()(const FieldStep::Water& w) const { w->points(kernels, at, out); }
    void operator()(const FieldStep::Walk& w) const { w->points(at, out); }
    void operator()(const FieldStep::Fresh& f) const { f.of->points(at, f.tells, out); }
  };
  std::visit(Visit{kernels, at, before, out}, step.value);
}

void Field::dress(const Kernels& kernels, const FieldStep& step, float* values, int count) const {
  if (step.distribution) step.distribution->apply(kernels, values, count);
  if (step.curve) step.curve->apply(kernels, values, count);
  const auto [low, high] = step.clamp.value_or(kEndless);
  kernels.scale({step.amplitude, step.offset, low, high}, values, count);
}

void Field::stepValues(const Kernels& kernels, const FieldStep& step, const Points& places,
    const float* before, float* out) const {
  sourcePoints(kernels, step, places, before, out);
  dress(kernels, step, out, places.count);
}

void Field::stepWeights(
    const Kernels& kernels, const FieldStep& step, const Points& places, float* out) const {
  if (!step.mask) return std::fill_n(out, places.count, 1.0f), void();
  step.mask->field->points(kernels, places, out);
  kernels.mask(step.mask->ends, out, places.count);
}

void Field::joinStep(const Kernels& kernels, const FieldStep& step, float* sum, const float* value,
    const float* weight, int count) {
  kernels.join(
      step.reshapes() ? Combine::Replace : step.combine, step.amount, sum, value, weight, count);
}

void Field::finish(const Kernels& kernels, float* values, int count) const {
  if (curve_) curve_->apply(kernels, values, count);
  // Adding -0 keeps every bit.
  if (clamp_) kernels.scale({1, -0.0f, clamp_->first, clamp_->second}, values, count);
}

// ---- points ------------------------------------------------------------------------------------

void Field::sumPoints(
    const Kernels& kernels, const Points& places, size_t steps, float* out) const {
  float value[kMost], weight[kMost];
  std::fill_n(out, places.count, 0.0f);
  for (size_t k = 0; k < std::min(steps, steps_.size()); ++k) {
    const FieldStep& step = steps_[k];
    if (step.mask) {
      stepWeights(kernels, step, places, weight);
      if (std::all_of(weight, weight + places.count, [](float w) { return w == 0.0f; })) continue;
    }
    stepValues(kernels, step, places, out, value);
    joinStep(kernels, step, out, value, step.mask ? weight : nullptr, places.count);
  }
}

void Field::points(const Kernels& kernels, const Points& places, float* out) const {
  for (int first = 0; first < places.count; first += kMost) {
    Points part = places;
    part.count = std::min(kMost, places.count - first);
    for (int n = 0; n < dims_; ++n) {
      const int a = dimAxis(dims_, n);
      part.cell[a] = places.cell[a] + first;
      part.q[a] = places.q[a] + first;
    }
    sumPoints(kernels, part, steps_.size(), out + first);
    finish(kernels, out + first, part.count);
  }
}

float Field::at(Pos x, Pos z) const {
  const Points place{1, {&x.cell, nullptr, &z.cell}, {&x.q, nullptr, &z.q}};
  float value = 0;
  points(plainKernels(), place, &value);
  return value;
}

int Field::stepOf(const std::string& layerId) const {
  const auto found = std::find_if(
      steps_.begin(), steps_.end(), [&](const FieldStep& s) { return s.id == layerId; });
  return found == steps_.end() ? -1 : static_cast<int>(found - steps_.begin());
}

// ---- grids -------------------------------------------------------------------------------------

bool KnownValues::copy(const Field* of, const SampleGrid& part, float* out) const {
  if (!field || of != field || part.step != grid.step) return false;
  const int64_t i = (part.x - grid.x) / grid.step, j = (part.z - grid.z) / grid.step;
  const bool inside = part.x >= grid.x && part.z >= grid.z && i + part.width <= grid.width &&
                      j + part.length <= grid.length && i * grid.step == part.x - grid.x &&
                      j * grid.step == part.z - grid.z;
  if (!inside) return false;
  for (int32_t row = 0; row < part.length; ++row)
    std::copy_n(values + (j + row) * stride + i, part.width, out + ptrdiff_t{row} * part.width);
  return true;
}

bool Field::stepTile(const Kernels& kernels, const FieldStep& step, const SampleGrid& grid,
    float* out, ptrdiff_t stride, const std::stop_token& stop, const KnownValues& known) const {
  if (const auto join = kernelJoin(step)) {
    kernels.grid(std::get<NoisePlan>(step.value), grid, *join, out, stride);
    return true;
  }
  const ptrdiff_t width = grid.width;
  const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
  std::vector<float> weights;
  if (step.mask) {
    weights.resize(count);
    if (!known.copy(step.mask->field.get(), grid, weights.data()) &&
        !step.mask->field->tile(kernels, grid, weights.data(), width, stop, known))
      return false;
    kernels.mask(step.mask->ends, weights.data(), static_cast<int>(count));
    if (std::all_of(weights.begin(), weights.end(), [](float w) { return w == 0.0f; })) return true;
  }
  std::vector<float> values(count);
  if (!valueTile(kernels, step, grid, out, stride, values.data(), stop, known)) return false;
  for (int j = 0; j < grid.length; ++j)
    joinStep(kernels, step, out + j * stride, values.data() + j * width,
        step.mask ? weights.data() + j * width : nullptr, grid.width);
  return true;
}

bool Field::valueTile(const Kernels& kernels, const FieldStep& step, const SampleGrid& grid,
    const float* before, ptrdiff_t stride, float* values, const std::stop_token& stop,
    const KnownValues& known) const {
  const ptrdiff_t width = grid.width;
  const auto* plan = std::get_if<NoisePlan>(&step.value);
  const auto* field = std::get_if<std::shared_ptr<const Field>>(&step.value);
  const auto* altitude = std::get_if<FieldStep::Altitude>(&step.value);
  const auto* fresh = std::get_if<FieldStep::Fresh>(&step.value);
  const bool inPlace =
      std::all_of(step.shift, step.shift + 3, [](const Pos& s) { return s.cell == 0 && s.q == 0; });
  if (plan && !step.warp) {
    kernels.grid(*plan, grid, {JoinOp::Replace, 1, 0}, values, width);
  } else if (field && !step.warp && inPlace) {
    if (!known.copy(field->get(), grid, values) &&
        !(*field)->tile(kernels, grid, values, width, stop, known))
      return false;
  } else if (altitude && !step.warp && inPlace) {
    if (!known.copy(altitude->heights.get(), grid, values) &&
        !altitude->heights->tile(kernels, grid, values, width, stop, known))
      return false;
    aboveSea(values, static_cast<int>(width * grid.length), altitude->sea);
  } else if (fresh && !step.warp && inPlace) {
    if (!fresh->of->grid(grid, fresh->tells, values, stop)) return false;
  } else if (step.reshapes()) {
    const Points row{grid.width, {}, {}};
    for (int j = 0; j < grid.length; ++j)
      sourcePoints(kernels, step, row, before + j * stride, values + j * width);
  } else {
    if (!patchTile(kernels, step, grid, values, stop)) return false;
  }
  dress(kernels, step, values, static_cast<int>(width * grid.length));
  return true;
}

/// A source that is asked point by point, in patches rather than rows: neighbours share more of the
/// lattice.
bool Field::patchTile(const Kernels& kernels, const FieldStep& step, const SampleGrid& grid,
    float* values, const std::stop_token& stop) const {
  const ptrdiff_t width = grid.width;
  // The first pass of a warp asks for noise on the grid itself, which costs next to nothing.
  std::vector<float> warpX, warpZ;
  if (step.warp) {
    const auto count = static_cast<size_t>(width) * static_cast<size_t>(grid.length);
    warpX.resize(count);
    warpZ.resize(count);
    kernels.grid(step.warp->x, grid, {JoinOp::Replace, 1, 0}, warpX.data(), width);
    kernels.grid(step.warp->z, grid, {JoinOp::Replace, 1, 0}, warpZ.data(), width);
  }
  const Patch size(grid.step);
  const Accuracy accuracy = WaterDistance::accuracyAt(grid.step);
  Moved moved;
  moved.accuracy = accuracy;
  moved.stop = &stop;
  int64_t x[kMost], z[kMost];
  const int32_t q[kMost] = {};
  float patch[kMost];
  for (int j0 = 0; j0 < grid.length; j0 += size.height) {
    if (stop.stop_requested()) return false;
    const int rows = std::min(size.height, grid.length - j0);
    for (int i0 = 0; i0 < grid.width; i0 += size.width) {
      const int columns = std::min(size.width, grid.width - i0);
      Points at{rows * columns, {x, nullptr, z}, {q, nullptr, q}, accuracy, &stop};
      const auto perRow = [&](auto&& visit) {
        for (int j = 0; j < rows; ++j) visit(j * columns, (j0 + j) * width + i0, j);
      };
      perRow([&](int to, ptrdiff_t, int j) {
        for (int i = 0; i < columns; ++i) {
          x[to + i] = grid.x + (i0 + i) * grid.step;
          z[to + i] = grid.z + (j0 + j) * grid.step;
        }
      });
      if (step.warp) {
        const auto firstPass = [&](int axis, const std::vector<float>& noise) {
          perRow([&](int to, ptrdiff_t from, int) {
            std::copy_n(noise.data() + from, columns, patch + to);
          });
          displace(kernels, *step.warp, at, axis, patch, moved);
        };
        firstPass(kX, warpX);
        firstPass(kZ, warpZ);
        warpPoints(kernels, *step.warp, at, dims_, 1, moved);
        at = moved.points(at.count);
      }
      sourceAt(kernels, step, at, nullptr, patch);
      perRow([&](int from, ptrdiff_t to, int) { std::copy_n(patch + from, columns, values + to); });
    }
  }
  return !stop.stop_requested();
}

bool Field::tile(const Kernels& kernels, const SampleGrid& grid, size_t steps, float* out,
    ptrdiff_t stride, const std::stop_token& stop, const KnownValues& known) const {
  for (int32_t j = 0; j < grid.length; ++j) std::fill_n(out + j * stride, grid.width, 0.0f);
  for (size_t k = 0; k < std::min(steps, steps_.size()); ++k) {
    if (stop.stop_requested()) return false;
    if (!stepTile(kernels, steps_[k], grid, out, stride, stop, known)) return false;
  }
  return true;
}

bool Field::tile(const Kernels& kernels, const SampleGrid& grid, float* out, ptrdiff_t stride,
    const std::stop_token& stop, const KnownValues& known) const {
  if (!tile(kernels, grid, steps_.size(), out, stride, stop, known)) return false;
  if (curve_ || clamp_)
    for (int32_t j = 0; j < grid.length; ++j) finish(kernels, out + j * stride, grid.width);
  return true;
}

namespace {

/// Calls make(part, i, j) for the tiles of a grid; false as soon as one call is.
template <class Make>
bool overTiles(const SampleGrid& grid, const std::stop_token& stop, Make&& make) {
  for (int32_t z = 0; z < grid.length; z += Kernels::kTileHeight)
    for (int32_t x = 0; x < grid.width; x += Kernels::kTileWidth) {
      const SampleGrid part{grid.x + x * grid.step, grid.z + z * grid.step, grid.step,
          std::min(Kernels::kTileWidth, grid.width - x),
          std::min(Kernels::kTileHeight, grid.length - z)};
      if (stop.stop_requested() || !make(part, x, z)) return false;
    }
  return true;
}

}  // namespace

bool Field::evaluate(const Kernels& kernels, const SampleGrid& grid, float* out, ptrdiff_t stride,
    const std::stop_token& stop, const KnownValues& known) const {
  return overTiles(grid, stop, [&](const SampleGrid& part, int32_t x, int32_t z) {
    return tile(kernels, part, out + z * stride + x, stride, stop, known);
  });
}

bool Field::evaluateStep(const Kernels& kernels, size_t step, const SampleGrid& grid, float* out,
    ptrdiff_t stride, const std::stop_token& stop) const {
  return overTiles(grid, stop, [&](const SampleGrid& part, int32_t x, int32_t z) {
    const ptrdiff_t width = part.width;
    const auto count = static_cast<size_t>(part.width) * static_cast<size_t>(part.length);
    std::vector<float> before, values(count);
    if (steps_[step].reshapes()) {
      before.resize(count);
      if (!tile(kernels, part, step, before.data(), width, stop, {})) return false;
    }
    if (!valueTile(kernels, steps_[step], part, before.data(), width, values.data(), stop, {}))
      return false;
    for (int32_t j = 0; j < part.length; ++j)
      std::copy_n(values.data() + j * width, width, out + (z + j) * stride + x);
    return true;
  });
}

bool Field::evaluate(const Kernels& kernels, const SampleBlock& block, float* out,
    const std::stop_token& stop) const {
  const auto plane = static_cast<size_t>(block.width) * static_cast<size_t>(block.length);
  // A field of one plain layer of noise is the kernel's own work; anything else goes row by row.
  const auto* plan = steps_.size() == 1 ? std::get_if<NoisePlan>(&steps_[0].value) : nullptr;
  if (plan && kernelJoin(steps_[0]) && block.width <= Kernels::kTileWidth) {
    const size_t count = plane * static_cast<size_t>(block.height);
    kernels.block(*plan, block, out);
    dress(kernels, steps_[0], out, static_cast<int>(count));
    if (steps_[0].combine != Combine::Replace) {
      std::vector<float> zero(count);
      joinStep(kernels, steps_[0], zero.data(), out, nullptr, static_cast<int>(count));
      std::copy(zero.begin(), zero.end(), out);
    }
    finish(kernels, out, static_cast<int>(count));
    return true;
  }
  std::vector<int64_t> x(static_cast<size_t>(block.width)), y(x), z(x);
  const std::vector<int32_t> q(x.size());
  for (int i = 0; i < block.width; ++i) x[static_cast<size_t>(i)] = block.x + i * block.step;
  for (int32_t j = 0; j < block.height; ++j) {
    std::fill(y.begin(), y.end(), block.y + j * block.step);
    for (int32_t k = 0; k < block.length; ++k, out += block.width) {
      if (stop.stop_requested()) return false;
      std::fill(z.begin(), z.end(), block.z + k * block.step);
      points(kernels, {block.width, {x.data(), y.data(), z.data()}, {q.data(), q.data(), q.data()}},
          out);
    }
  }
  return true;
}

}  // namespace acre

#include "app/edit/wave_values.h"

#include <algorithm>
#include <cmath>

#include "base/fp_state.h"
#include "field/field.h"
#include "noise/kernels.h"

namespace app {

Waves wavesAlong(
    const acre::World& world, const std::string& fieldId, const SectionLine& line, int count) {
  const acre::FpState fp;
  Waves out;
  const acre::Field* field = planOf(world).field(fieldId);
  const acre::FieldRecipe* recipe = acre::fieldOf(planOf(world).recipe(), fieldId);
  if (!field || !recipe || count < 2) return out;
  const double dx = static_cast<double>(line.b.cell.x - line.a.cell.x) + line.b.fx - line.a.fx;
  const double dz = static_cast<double>(line.b.cell.z - line.a.cell.z) + line.b.fz - line.a.fz;
  out.cells = std::sqrt(dx * dx + dz * dz);
  const auto n = static_cast<size_t>(count);
  std::vector<int64_t> x(n), z(n);
  const std::vector<int32_t> q(n, 0);  // Whole cells: what the world has, not what lies between.
  for (size_t i = 0; i < n; ++i) {
    const double t = static_cast<double>(i) / static_cast<double>(n - 1);
    Place p = line.a;
    p.moveBy(dx * t, dz * t);
    x[i] = p.cell.x;
    z[i] = p.cell.z;
  }
  out.layers.resize(recipe->layers.size());
  out.sum.assign(n, 0.0f);
  const acre::Kernels& kernels = planOf(world).kernels();
  for (size_t k = 0; k < recipe->layers.size(); ++k) {
    const int at = planOf(world).recipe().heightsOn || fieldId != acre::kHeightsId
                       ? field->stepOf(recipe->layers[k].id)
                       : -1;
    if (at < 0) continue;
    const acre::FieldStep& step = field->steps()[static_cast<size_t>(at)];
    Wave& wave = out.layers[k];
    wave.values.resize(n);
    if (step.mask) wave.weight.resize(n);
    acre::FieldStep first = step;
    auto* plan = std::get_if<acre::NoisePlan>(&first.value);
    const bool octave = plan && plan->octaves.size() > 1 && !step.distribution && !step.curve;
    if (octave) {
      plan->octaves.resize(1);
      wave.octave.resize(n);
    }
    for (size_t from = 0; from < n; from += acre::Kernels::kMostPoints) {
      const int some = static_cast<int>(std::min<size_t>(acre::Kernels::kMostPoints, n - from));
      const acre::Points places{some, {x.data() + from, nullptr, z.data() + from},
          {q.data() + from, nullptr, q.data() + from}};
      float* sum = out.sum.data() + from;
      float* values = wave.values.data() + from;
      field->stepValues(kernels, step, places, sum, values);
      if (octave) field->stepValues(kernels, first, places, sum, wave.octave.data() + from);
      if (step.mask) field->stepWeights(kernels, step, places, wave.weight.data() + from);
      acre::Field::joinStep(
          kernels, step, sum, values, step.mask ? wave.weight.data() + from : nullptr, some);
    }
    wave.total = out.sum;
  }
  field->finish(kernels, out.sum.data(), count);
  return out;
}

}  // namespace app

#include "noise/kernels.h"

#include <hwy/targets.h>

namespace acre {

// Each of a unit of its own, kernels_NAME.cpp.
const Kernels& avx512Kernels();
const Kernels& avx2Kernels();
const Kernels& sse4Kernels();
const Kernels& neonKernels();

const std::vector<const Kernels*>& availableKernels() {
  static const std::vector<const Kernels*> tables = [] {
    std::vector<const Kernels*> list;
    [[maybe_unused]] const int64_t supported = hwy::SupportedTargets();
#if HWY_ARCH_X86
    if (supported & HWY_AVX3) list.push_back(&avx512Kernels());
    if (supported & HWY_AVX2) list.push_back(&avx2Kernels());
    if (supported & HWY_SSE4) list.push_back(&sse4Kernels());
#elif HWY_ARCH_ARM_A64
    if (supported & HWY_NEON) list.push_back(&neonKernels());
#endif
    list.push_back(&plainKernels());
    return list;
  }();
  return tables;
}

Result<const Kernels*> kernelsNamed(const std::string& name) {
  std::string known;
  for (const Kernels* table : availableKernels()) {
    if (name.empty() || name == table->name) return table;
    known += (known.empty() ? "" : ", ") + std::string(table->name);
  }
  return Error{Error::Code::InvalidInput, "\"" + name + "\" is no instruction set of this machine",
      "--simd", known};
}

}  // namespace acre

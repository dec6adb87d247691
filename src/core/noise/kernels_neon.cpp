#define ACRE_KERNEL_TARGET HWY_NEON
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "noise/kernels_neon.cpp"
#include "noise/kernel_table-inl.h"

#if HWY_TARGET == ACRE_KERNEL_TARGET
namespace acre {
const Kernels& neonKernels() {
  return N_NEON::Table("neon");
}
}  // namespace acre
#endif

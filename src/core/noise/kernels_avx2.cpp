#define ACRE_KERNEL_TARGET HWY_AVX2
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "noise/kernels_avx2.cpp"
#include "noise/kernel_table-inl.h"

#if HWY_TARGET == ACRE_KERNEL_TARGET
namespace acre {
const Kernels& avx2Kernels() {
  return N_AVX2::Table("avx2");
}
}  // namespace acre
#endif

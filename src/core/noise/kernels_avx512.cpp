#define ACRE_KERNEL_TARGET HWY_AVX3
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "noise/kernels_avx512.cpp"
#include "noise/kernel_table-inl.h"

#if HWY_TARGET == ACRE_KERNEL_TARGET
namespace acre {
const Kernels& avx512Kernels() {
  return N_AVX3::Table("avx512");
}
}  // namespace acre
#endif

#define ACRE_KERNEL_TARGET HWY_SSE4
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "noise/kernels_sse4.cpp"
#include "noise/kernel_table-inl.h"

#if HWY_TARGET == ACRE_KERNEL_TARGET
namespace acre {
const Kernels& sse4Kernels() {
  return N_SSE4::Table("sse4");
}
}  // namespace acre
#endif

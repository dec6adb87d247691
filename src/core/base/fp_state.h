/// Holds the floating point unit in the one state in which cells are decided.
#pragma once

#include <cfenv>

#if defined(__SSE2__)
#include <xmmintrin.h>
#endif

namespace acre {

/// While alive: round to nearest, no flush-to-zero, no denormals-are-zero, all traps masked. The
/// caller's state comes back at the end. Every public entry that decides cells holds one, since a
/// host program or a plug-in may have left any state behind.
class FpState {
 public:
#if defined(__SSE2__)
  FpState() : saved_(_mm_getcsr()) {
    _mm_setcsr(0x1F80);
  }
  ~FpState() {
    _mm_setcsr(saved_);
  }

 private:
  unsigned saved_;
#else
  FpState() {
    std::fegetenv(&saved_);
    std::fesetenv(FE_DFL_ENV);
  }
  ~FpState() {
    std::fesetenv(&saved_);
  }

 private:
  std::fenv_t saved_;
#endif
 public:
  FpState(const FpState&) = delete;
  FpState& operator=(const FpState&) = delete;
};

}  // namespace acre

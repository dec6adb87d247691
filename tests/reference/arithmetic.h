/// Small arithmetic of the second evaluator, as docs/maths.md has it.
#pragma once

#include <cstdint>

namespace reference {

/// The quotient rounded down. REQUIRES: b > 0.
inline int64_t floorOf(int64_t a, int64_t b) {
  const int64_t q = a / b;
  return a % b < 0 ? q - 1 : q;
}

}  // namespace reference

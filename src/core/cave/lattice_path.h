/// Cheapest paths through a box of lattice points, in whole numbers.
#pragma once

#include <cstdint>
#include <span>
#include <stop_token>
#include <vector>

#include "base/result.h"

namespace acre {

/// Points of a box, x fastest, then z, then y.
struct LatticeBox {
  static constexpr uint32_t kMost = 4096;  ///< Points.
  int32_t nx = 1, ny = 1, nz = 1;          ///< 1 and up.

  uint32_t count() const { return static_cast<uint32_t>(nx * ny * nz); }
  uint32_t index(int32_t x, int32_t y, int32_t z) const {
    return static_cast<uint32_t>((y * nz + z) * nx + x);
  }
  int32_t x(uint32_t i) const { return static_cast<int32_t>(i) % nx; }
  int32_t z(uint32_t i) const { return static_cast<int32_t>(i) / nx % nz; }
  int32_t y(uint32_t i) const { return static_cast<int32_t>(i) / (nx * nz); }
};

/// Least cost of a point: the price of level, open ground.
inline constexpr uint32_t kPlainCost = 256;
/// Most: sums along the longest path stay below 2^31.
inline constexpr uint32_t kMostCost = 65'536;

/// Price of a step between neighbours that differ along so many axes (1, 2 or 3), from a point of
/// cost a to one of cost b: length times the mean of both, rounded up. Lengths are 256, 362 and
/// 443: 256 times the roots of 1, 2 and 3.
constexpr uint32_t stepCost(int axes, uint32_t a, uint32_t b) {
  const uint64_t length = axes == 1 ? 256 : axes == 2 ? 362 : 443;
  return static_cast<uint32_t>((length * (a + b) + 511) >> 9);
}

/// The cheapest path from one point to another, both included, among the 26 neighbours of each
/// point. Where several are as cheap, each point comes from the one with the lowest index that any
/// of them comes from, so that the path does not depend on the order of the search.
///
/// Source: P. E. Hart, N. J. Nilsson, B. Raphael, "A formal basis for the heuristic determination
/// of minimum cost paths", 1968; the estimate is the price of the free way at plain cost.
/// costs: of each point, kPlainCost ... kMostCost. REQUIRES: at most LatticeBox::kMost points, both
/// within the box. Empty when stopped; polls every 1,024 points.
std::vector<uint32_t> cheapestPath(const LatticeBox& box, std::span<const uint32_t> costs,
    uint32_t from, uint32_t to, const std::stop_token& stop = {});

/// What a path costs.
uint64_t pathCost(
    const LatticeBox& box, std::span<const uint32_t> costs, std::span<const uint32_t> path);

}  // namespace acre

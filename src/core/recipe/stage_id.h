/// The stages of a world by name; recipe/stages.h says what each is.
#pragma once

#include <cstddef>
#include <cstdint>

namespace acre {

/// In the order in which they are made.
enum class StageId : uint8_t {
  Frame,
  Heights,
  Climate,
  Biomes,
  Level,
  Water,
  Strata,
  Caves,
  Objects,
  Tiles
};
inline constexpr size_t kStageCount = 10;

}  // namespace acre

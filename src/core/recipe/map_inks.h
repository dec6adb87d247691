/// The inks that maps are printed with. Any two differ by at least 10 (CIE 1976 L*a*b* difference,
/// light D65) for usual sight and for the common colour blindnesses, flat and under the shades of
/// relief, 0.45 to 1.2.
#pragma once

#include <array>

#include "recipe/biome_recipe.h"

namespace acre::inks {

inline constexpr Colour kDeepWater{0x37, 0x5F, 0x6E};
inline constexpr Colour kShallow{0x83, 0xB7, 0xD9};
inline constexpr Colour kSand{0xE9, 0xC7, 0xB9};
inline constexpr Colour kMudflat{0x7A, 0x70, 0x64};
inline constexpr Colour kSaltmarsh{0x88, 0x93, 0x5E};
inline constexpr Colour kReedbed{0xBC, 0xB3, 0x74};
inline constexpr Colour kWetMeadow{0xE0, 0xDF, 0xA2};
inline constexpr Colour kOrchard{0xBF, 0x97, 0x90};
inline constexpr Colour kBeechwood{0x5C, 0x71, 0x42};
inline constexpr Colour kHeath{0x9B, 0x70, 0x99};
inline constexpr Colour kBog{0x5F, 0x4A, 0x40};
inline constexpr Colour kLimestone{0xBD, 0xCA, 0xD1};
inline constexpr Colour kScree{0x94, 0xA5, 0xB1};
inline constexpr Colour kSnow{0xF9, 0xFA, 0xF9};

inline constexpr std::array kAll = {kDeepWater, kShallow, kSand, kMudflat, kSaltmarsh, kReedbed,
    kWetMeadow, kOrchard, kBeechwood, kHeath, kBog, kLimestone, kScree, kSnow};

}  // namespace acre::inks

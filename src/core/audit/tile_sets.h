/// What is wrong with a set of tiles before anybody sees it on a map.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "output/tile_art.h"

namespace acre {

/// Two pictures that may lie side by side and do not meet.
struct TileRimFault {
  int number = 0, other = 0;  ///< Cases: the western or northern one, and the other.
  bool below = false;         ///< The other lies south of it, not east.
  int pixels = 0;             ///< Of the common rim that differ.
  int at = 0;                 ///< The first of them, from the north or the west.
};

/// A case whose rims fault: how many of those that it has.
struct TileOffender {
  int number = 0;
  int faults = 0, rims = 0;
  TileRimFault worst;
};

/// A variant of a case whose rims are not those of its first picture, which the others meet.
struct TileVariantFault {
  int number = 0, variant = 0;
  int pixels = 0;  ///< Of all four rims.
};

struct TileSetReport {
  std::vector<int> missing;                  ///< Drawings without a picture, of any variant: cases.
  std::vector<std::pair<int, int>> doubles;  ///< Cases whose pictures are the same.
  std::vector<int> idle;                     ///< Places of the picture that no drawing uses.
  /// Cases whose picture looks like another one, and which.
  std::vector<std::pair<int, int>> odd;
  std::vector<TileRimFault> rims;  ///< Worst first.
  std::vector<TileVariantFault> variants;
  /// By the share of their rims that fault, highest first.
  std::vector<TileOffender> offenders;
  bool good() const {
    return missing.empty() && doubles.empty() && odd.empty() && rims.empty() && variants.empty();
  }
};

/// Looks at every picture and at every pair that can lie side by side. Pixels of a rim differ where
/// one is clear and the other is not, or a channel does by more than kRimShade.
TileSetReport reportOn(const TileSet& set, const TileArt& art);
inline constexpr int kRimShade = 48;

/// What a tile of a picture shows.
struct TileGuess {
  int number = 0;        ///< The case.
  bool sure = false;     ///< Else it is what was left, or the nearest.
  int like = 0;          ///< The case that it looks most like, whatever the others are ...
  bool clearly = false;  ///< ... and like no other nearly as much.
};
/// The case of each tile, from what lies along its rims and in its corners: ground where the tile
/// is not clear, or, in pictures with next to nothing clear, where it is like the colour that most
/// of their middles have (of corners then nothing is sure). Each case is given once for each
/// variant where that can be. Nothing for an empty tile.
std::vector<std::optional<TileGuess>> guessed(
    const TileArt& tiles, TileMethod method, int variants = 1);
/// The order for TilePicture::order of a set whose pictures show these cases; those of one case are
/// its variants, in the order of their places.
std::vector<int32_t> orderOf(const std::vector<std::optional<TileGuess>>& guesses,
    TileMethod method, TileTurns turns, int variants = 1);

/// One sentence each.
std::vector<std::string> sentencesOf(const TileSetReport& report);

}  // namespace acre

/// What the numbers of a recipe may be.
#pragma once

#include <cstddef>
#include <cstdint>
#include <limits>
#include <string>

#include "base/coords.h"

namespace acre {

/// An accepted range of a number, both ends included.
struct Range {
  double low;
  double high;
  bool holds(double v) const { return v >= low && v <= high; }  // False for NaN.
  std::string text() const;
};

inline constexpr Range kAnyNumber{
    -std::numeric_limits<double>::infinity(), std::numeric_limits<double>::infinity()};

namespace limits {
inline constexpr Range chunkSize{1, 1024};
inline constexpr Range altitude{-1e6, 1e6};  ///< Sea level, thresholds, constants, offsets.
inline constexpr Range amplitude{-1e6, 1e6};
inline constexpr Range width{1.0 / 32, 4294967296.0};
inline constexpr Range octaves{1, 32};
inline constexpr Range lacunarity{1, 16};
inline constexpr Range gain{0, 4};
inline constexpr Range sampling{-4294967296.0, 4294967296.0};
inline constexpr Range jitter{0, 1};
inline constexpr Range share{0, 1};
inline constexpr Range place{-1e15, 1e15};        ///< Cells of ramps, points, islands and pictures.
inline constexpr Range distance{1.0 / 32, 1e15};  ///< Reaches, radii, edges, cells per pixel.
inline constexpr Range terrace{1e-3, 1e6};
inline constexpr Range flat{0, 0.99};
inline constexpr Range waterReach{1, 256};
inline constexpr Range smooth{1e-6, 1e6};  ///< Blending range of smooth minimum and maximum.
inline constexpr Range soft{0, 1e6};
inline constexpr Range warpCells{0, 16000};
inline constexpr Range warpPasses{1, 3};
inline constexpr Range edgeWidth{0, 1e6};
inline constexpr Range slope{0, 1e6};
inline constexpr Range painting{2, 128};  ///< Columns and rows of a painted chart.
inline constexpr Range reliefFactor{0, 8};
inline constexpr Range raise{-1e5, 1e5};
inline constexpr Range idealWeight{0.01, 100};
inline constexpr Range biomeWeight{0, 1e6};
inline constexpr Range altitudeReach{1e-3, 1e6};
inline constexpr Range chartBorder{0, 0.25};
inline constexpr Range groundBorder{0, 1e6};
inline constexpr Range regionSize{8, 1e6};
inline constexpr Range islets{0, 32};
inline constexpr Range walkHeight{-100'000, 100'000};
inline constexpr Range walkSlope{0.01, 16};
inline constexpr Range walkChange{0.001, 16};
inline constexpr Range blockChunk{4, 128};  ///< Chunks of worlds made of blocks.
inline constexpr Range verticalMin{-1e6, 1e6};
inline constexpr int64_t verticalExtent = 65'536;
inline constexpr int64_t chunkCells = int64_t{1} << 24;
inline constexpr Range overhangReach{1, 64};
inline constexpr Range overhangAmount{0, 256};
inline constexpr Range layerThickness{0, 64};
inline constexpr Range layerVary{-64, 64};
inline constexpr int64_t layersDeep = 256;  ///< All layers together.
inline constexpr Range bedThickness{1, 65'536};
inline constexpr Range oreShare{0, 0.9};
inline constexpr double allOres = 0.9;
inline constexpr Range oreRadius{0.5, 16};
inline constexpr Range oreLength{1, 96};
inline constexpr Range oreCurve{0, 1e6};
inline constexpr Range noiseBand{-16, 16};
inline constexpr Range seaCover{1, 64};
inline constexpr Range tunnelSpacing{16, 8192};
inline constexpr Range tunnelDepth{0, 4096};
inline constexpr Range tunnelStep{4, 32};
inline constexpr Range tunnelSide{1, 31};
inline constexpr Range tunnelUp{0, 15};
inline constexpr Range tunnelArms{0, 8};
inline constexpr Range tunnelNoise{0, 64};
inline constexpr Range bore{1, 16};
inline constexpr Range mouth{1, 32};
inline constexpr double thinnestBore = 0.9;  ///< Cells: thinner passages may be closed.
inline constexpr Range spring{1, 1000};
inline constexpr Range carve{1, 64};
inline constexpr Range riverGrowth{0.05, 4};
inline constexpr Range riverWidth{2, 26};
inline constexpr Range riverDepth{0, 16};
inline constexpr Range valley{0, 8};
inline constexpr Range valleySides{0.02, 2};
inline constexpr Range meander{0, 9};
inline constexpr Range shore{0, 46};
inline constexpr Range mouthReach{0, 32};
inline constexpr Range courseCount{0, 16};
inline constexpr Range courseRegion{64, 4096};
inline constexpr Range courseStep{1, 64};
inline constexpr Range courseFeature{2, 1024};
inline constexpr Range courseClimb{0, 16};
inline constexpr Range courseCarve{1, 1024};
inline constexpr Range courseWinding{1, 32};
inline constexpr double coursePlaces = 1024;  ///< Along one side of a region.
inline constexpr size_t courseStops = 16;
inline constexpr Range courseCell{-0x1p53, 0x1p53};
inline constexpr Range objectDensity{0, 1000};
inline constexpr Range objectDistance{1, 64};
inline constexpr Range objectSlope{0, 1000};
inline constexpr Range objectWeight{0, 1e6};
inline constexpr Range objectFooting{1, 16};
inline constexpr Range objectSquare{64, 65536};
inline constexpr Range wallReach{1, 16};
inline constexpr size_t objectKinds = 64;
inline constexpr size_t objectChoices = 64;
inline constexpr size_t objectPieces = 64;
inline constexpr size_t objectAttributes = 16;
inline constexpr size_t pieceSide = 64;   ///< Cells along an axis.
inline constexpr size_t pieceSigns = 92;  ///< What is left of a keyboard.
inline constexpr Range pieceCell{0, 63};
inline constexpr Range pieceDepth{0, 16};

// Trees. Lengths in blocks.
inline constexpr size_t treeStyles = 64;
inline constexpr Range treeVariants{0, 64};
inline constexpr Range treeHeight{1, 60};
inline constexpr Range treeRadius{0.5, 24};
inline constexpr Range treeBase{0, 0.9};
inline constexpr Range treeVary{0, 0.5};
inline constexpr Range treeTiers{0, 16};
inline constexpr Range treePoints{0, 5000};
inline constexpr Range treeLobes{0, 16};
inline constexpr Range treeNear{0.25, 32};  ///< Influence and kill.
inline constexpr Range treeSegment{0.25, 4};
inline constexpr Range treeUp{-2, 2};
inline constexpr Range treeLean{-1, 1};
inline constexpr Range treeDroop{0, 32};
inline constexpr Range treeWood{0.05, 6};
inline constexpr Range treeLeafReach{0, 32};
inline constexpr Range treeLeaf{0.5, 8};
inline constexpr Range compass{0, 359};
inline constexpr size_t tileSets = 32;
inline constexpr size_t tileGroups = 32;
inline constexpr size_t tileVariants = 16;
inline constexpr Range tileWeight{0, 1000};
inline constexpr Range tileSize{4, 64};
inline constexpr Range tileEdge{0, 8};
inline constexpr Range tileColumns{1, 1024};
inline constexpr Range tileCell{0, 512};
inline constexpr size_t tilePictures = 1024;
inline constexpr Range tilePlace{-1, 1023};
inline constexpr Range automatonSteps{0, 31};
inline constexpr Range automatonTall{1, 64};
inline constexpr Range automatonCover{0, 256};
inline constexpr int64_t automatonLevels = 1024;  ///< Of a volume.
inline constexpr Range levelSide{8, 4096};
inline constexpr Range levelMargin{1, 512};
inline constexpr Range floorNumber{-1000, 1000};
inline constexpr Range levelSteps{0, 1000};
inline constexpr Range walkers{1, 1000};
inline constexpr Range walkLength{1, 1e6};
inline constexpr Range walkRadius{0, 16};
inline constexpr Range bodyFloods{0, 10'000};
inline constexpr Range bodySize{1, 100'000};
inline constexpr Range bodySmooth{0, 64};
inline constexpr Range roomCount{0, 1000};
inline constexpr Range roomDistance{0, 256};
inline constexpr Range roomShare{0, 1000};
inline constexpr Range leastSpace{0, 1e6};
inline constexpr Range placeClear{0, 32};
inline constexpr Range placeSteps{0, 1e7};
inline constexpr Range levelWalls{1, 64};
inline constexpr double walkedCells = 2e7;   ///< Steps of all walkers of a process together.
inline constexpr double floodedCells = 1e8;  ///< Floods of a body times their size.
inline constexpr double steppedCells = 4e9;  ///< Cells of the floor times steps of an automaton.
inline constexpr size_t levelProcesses = 32;
inline constexpr size_t levelPlaces = 64;
inline constexpr size_t roomPieces = 64;
inline constexpr size_t caveParts = 32;  ///< Voids, tunnels, automata, kinds: each.
inline constexpr size_t caveFloors = 64;
inline constexpr size_t depthLayers = 16;
inline constexpr size_t beds = 256;
inline constexpr size_t ores = 64;
inline constexpr size_t biomes = 1000;
inline constexpr size_t areas = 256;
inline constexpr size_t slices = 16;
inline constexpr size_t tags = 32;
inline constexpr size_t curvePoints = 64;
inline constexpr size_t fields = 64;
inline constexpr size_t slopes = 64;
inline constexpr int expandedLayers = 4096;  ///< Of a field with all fields that it reads.
inline constexpr double reachableHeight = 1e9;
inline constexpr size_t layers = 256;
inline constexpr size_t bands = 256;
inline constexpr size_t materials = 4096;
inline constexpr size_t nameBytes = 200;
inline constexpr size_t unitBytes = 24;
inline constexpr size_t noteBytes = 4000;
inline constexpr size_t seedBytes = 200;
inline constexpr int64_t cell = kMaxCell;
}  // namespace limits

}  // namespace acre

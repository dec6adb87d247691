/// Reports of traverses as tables and JSON.
#pragma once

#include <string>
#include <vector>

#include "stream/traverse.h"

namespace acre {

/// A row per frame: seconds, needed, missing, loaded, waiting, released, bytes, resident,
/// consumerMillis.
std::string traverseCsv(const TraverseReport& report);

/// The settings of a run in a few words, and its figures.
struct TraverseColumn {
  std::string name;  ///< "A", "B".
  int32_t chunkSize = 32;
  TraverseSettings settings;
  TraverseReport report;
};

/// One figure of every column: what it is, in which unit, and the numbers.
struct TraverseFigure {
  std::string name;
  std::string unit;
  std::vector<double> values;  ///< NaN: not measured in this kind of run.
};
std::vector<TraverseFigure> traverseFigures(const std::vector<TraverseColumn>& columns);
/// The settings in which columns differ, or all for a single one: "chunk 16, 2 threads".
std::vector<std::string> traverseSettingsText(const std::vector<TraverseColumn>& columns);

/// Figures, settings and failures of all columns; frames: the frames as well.
std::string traverseJson(const std::vector<TraverseColumn>& columns, bool frames);

/// A number as people read it here: 0, 0.35, 12.4, 1204.
std::string figureText(double value);

}  // namespace acre

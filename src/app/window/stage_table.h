/// What the window shows of each stage, once: its editor, and the picture and the words of its
/// tile. Names, kinds of world and what reads what are the core's (recipe/stages.h).
#pragma once

#include <QImage>
#include <span>

#include "app/document/document.h"
#include "app/document/statistics.h"
#include "app/edit/editor.h"
#include "output/picture.h"
#include "recipe/stages.h"

namespace app {

using acre::StageId;

struct StagePage {
  StageId id;
  /// The key that chooses it. Its own, whatever stages come between others later.
  int digit;
  Editor* (*make)(Document& document, Statistics& statistics);
  /// Of its tile; nothing: it paints the sign.
  acre::Picture (*picture)(const acre::World& world);
  /// In the tokens' colours, of so many pixels.
  QImage (*sign)(QSize size);
  /// Seen only from near: where the map is coarser the tile shows its middle, exactly.
  bool near;
  /// Under the name: "3 layers".
  QString (*note)(const acre::World& world);
};

/// Each at the place of its id.
std::span<const StagePage, acre::kStageCount> allPages();
inline const StagePage& pageOf(StageId stage) {
  return allPages()[static_cast<size_t>(stage)];
}

}  // namespace app

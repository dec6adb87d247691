/// Words in the small type.
#pragma once

#include <QLabel>

#include "app/look/look.h"

namespace app::look {

/// wraps: over as many lines as they need.
inline QLabel* caption(const QString& text, bool wraps = false) {
  auto* label = new QLabel(text);
  label->setFont(font(Type::Caption));
  label->setProperty("role", "caption");
  label->setWordWrap(wraps);
  return label;
}

}  // namespace app::look

/// Numbers as people type them: "96", "−3.5", "2*(48+1)", "40 %", "1e3".
#pragma once

#include <QString>
#include <optional>

namespace app {

/// The value of an expression of numbers, + - * / and parentheses; a trailing unit is ignored, "%"
/// is a hundredth. Nothing when the text is no such expression or the result is not finite.
std::optional<double> evaluate(const QString& text);

}  // namespace app

/// Numbers as people type them: "96", "−3.5", "2*(48+1)", "40 %", "1e3".
#pragma once

#include <QString>
#include <optional>

namespace app {

/// The value of an expression of numbers, + - * / and parentheses; a trailing unit is ignored, "%"
/// is a hundredth. Nothing when the text is no such expression or the result is not finite.
std::optional<double> evaluate(const QString& text);

/// A value as people would have typed it: to the power of ten at or below `unit`, without what
/// arithmetic leaves behind (0.3, not 0.30000000000000004). unit: above 0.
double tidy(double value, double unit);

}  // namespace app

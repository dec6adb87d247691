#include "app/edit/arithmetic.h"

#include <QRegularExpression>
#include <algorithm>
#include <charconv>
#include <cmath>
#include <string>

namespace app {
namespace {

/// Recursive descent: sum = product {(+|-) product}; product = factor {(*|/) factor}.
class Parser {
 public:
  explicit Parser(std::string text) : text_(std::move(text)) {}

  std::optional<double> whole() {
    const double v = sum(0);
    skip();
    // What is left may be a unit, made of letters only.
    while (at_ < text_.size() &&
           (std::isalpha(static_cast<unsigned char>(text_[at_])) || text_[at_] == ' '))
      ++at_;
    if (!fine_ || at_ != text_.size() || !std::isfinite(v)) return {};
    return v;
  }

 private:
  static constexpr int kDeepest = 50;

  void skip() {
    while (at_ < text_.size() && text_[at_] == ' ') ++at_;
  }
  bool take(char c) {
    skip();
    if (at_ >= text_.size() || text_[at_] != c) return false;
    return ++at_, true;
  }
  double sum(int depth) {
    double v = product(depth);
    while (fine_) {
      if (take('+'))
        v += product(depth);
      else if (take('-'))
        v -= product(depth);
      else
        break;
    }
    return v;
  }
  double product(int depth) {
    double v = factor(depth);
    while (fine_) {
      if (take('*'))
        v *= factor(depth);
      else if (take('/'))
        v /= factor(depth);
      else
        break;
    }
    return v;
  }
  double factor(int depth) {
    if (depth > kDeepest) return fine_ = false, 0;
    if (take('-')) return -factor(depth + 1);
    if (take('+')) return factor(depth + 1);
    if (take('(')) {
      const double v = sum(depth + 1);
      if (!take(')')) fine_ = false;
      return v;
    }
    skip();
    double v = 0;
    const auto [end, fault] = std::from_chars(text_.data() + at_, text_.data() + text_.size(), v);
    if (fault != std::errc()) return fine_ = false, 0;
    at_ = static_cast<size_t>(end - text_.data());
    if (take('%')) v /= 100;
    return v;
  }

  std::string text_;
  size_t at_ = 0;
  bool fine_ = true;
};

/// Without the commas of numbers: those before groups of three digits are left out, one before
/// anything else is a decimal comma. False where neither makes sense.
bool readCommas(QString& text) {
  static const QRegularExpression number(QStringLiteral("[0-9.,]*,[0-9.,]*"));
  static const QRegularExpression grouped(
      QStringLiteral("^[1-9][0-9]{0,2}(,[0-9]{3})+(\\.[0-9]*)?$"));
  static const QRegularExpression decimal(QStringLiteral("^[0-9]*,[0-9]+$"));
  qsizetype from = 0;
  for (;;) {
    const auto found = number.match(text, from);
    if (!found.hasMatch()) return true;
    QString plain = found.captured();
    if (grouped.match(plain).hasMatch())
      plain.remove(QLatin1Char(','));
    else if (decimal.match(plain).hasMatch())
      plain.replace(QLatin1Char(','), QLatin1Char('.'));
    else
      return false;
    text.replace(found.capturedStart(), found.capturedLength(), plain);
    from = found.capturedStart() + plain.size();
  }
}

}  // namespace

std::optional<double> evaluate(const QString& text) {
  QString plain = text.trimmed();
  plain.replace(QChar(0x2212), QLatin1Char('-')).replace(QChar(0x00D7), QLatin1Char('*'));
  plain.replace(QChar(0x00A0), QLatin1Char(' '));
  if (!readCommas(plain)) return {};
  return Parser(plain.toStdString()).whole();
}

double tidy(double value, double unit) {
  const double parts = std::pow(10, -std::floor(std::log10(std::max(unit, 1e-9))));
  return std::round(value * parts) / parts;
}

}  // namespace app

/// Errors as values. A core function that can refuse its input returns Result<T> (or Status when
/// there is nothing to return); exceptions never cross the core's border.
#pragma once

#include <cassert>
#include <string>
#include <utility>
#include <variant>

#include "base/text.h"

namespace acre {

/// Why something was refused: one sentence, the place, and what would have been accepted.
struct Error {
  enum class Code { InvalidInput, NotFound, Io, Cancelled, ResourceExhausted };

  Code code = Code::InvalidInput;
  std::string what;      ///< The fault, in words, without the place.
  std::string where;     ///< JSON pointer, file or chunk; may be empty.
  std::string accepted;  ///< The accepted range or form; may be empty.

  static constexpr size_t kMostShown = 400;  ///< Bytes of each part.

  /// One line: "where: what; accepted: range".
  std::string text() const {
    // What a broken file holds must not break the line, nor fill the screen.
    std::string line = where.empty() ? std::string() : oneLine(where, kMostShown) + ": ";
    line += oneLine(what, kMostShown);
    if (!accepted.empty()) line += "; accepted: " + oneLine(accepted, 4 * kMostShown);
    return line;
  }
};

/// Input that is not accepted: what is wrong, with which option, file or member, and what is
/// accepted.
inline Error invalidInput(std::string what, std::string where, std::string accepted) {
  return {Error::Code::InvalidInput, std::move(what), std::move(where), std::move(accepted)};
}

inline Error cancelled() {
  return {Error::Code::Cancelled, "stopped before it was finished", "", ""};
}

/// Either a value or the Error that explains why there is none.
template <class T>
class [[nodiscard]] Result {
 public:
  Result(T value) : state_(std::in_place_index<0>, std::move(value)) {}      // NOLINT
  Result(Error error) : state_(std::in_place_index<1>, std::move(error)) {}  // NOLINT

  bool ok() const { return state_.index() == 0; }
  explicit operator bool() const { return ok(); }

  /// REQUIRES: ok().
  T& value() & { return assert(ok()), std::get<0>(state_); }
  const T& value() const& { return assert(ok()), std::get<0>(state_); }
  T&& value() && { return assert(ok()), std::get<0>(std::move(state_)); }
  T& operator*() & { return value(); }
  const T& operator*() const& { return value(); }
  T* operator->() { return &value(); }
  const T* operator->() const { return &value(); }

  /// REQUIRES: !ok().
  const Error& error() const { return assert(!ok()), std::get<1>(state_); }

 private:
  std::variant<T, Error> state_;
};

/// Result of something done for its effect.
using Status = Result<std::monostate>;
inline Status done() {
  return std::monostate{};
}

}  // namespace acre

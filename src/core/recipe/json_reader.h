/// A reader over parsed JSON that checks every type and remembers the first fault with its JSON
/// pointer, so that the code that fills the recipe reads as a plain list of members.
#pragma once

#include <initializer_list>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "recipe/limits.h"

namespace acre {

using Json = nlohmann::ordered_json;

/// Parses JSON strictly: duplicate keys, more than 64 levels, numbers beyond double and whole
/// numbers beyond 64 bits are refused with their place. The error's place is a JSON pointer, or a
/// line and column when the text is not JSON at all.
Result<Json> parseJson(std::string_view text);

class JsonReader {
 public:
  JsonReader(const Json& value, std::optional<Error>& fault) : JsonReader(&value, "", fault) {}

  /// Refuses a value that is not an object or holds keys other than these.
  void expectObject(const std::vector<std::string_view>& keys) const;
  /// The same after its members were read; goes before what was found in them, if all was sound
  /// before.
  void expectObject(const std::vector<std::string_view>& keys, bool sound) const;
  bool sound() const { return !fault_; }  ///< Nothing is refused yet.

  bool has(std::string_view key) const;
  bool isNull() const { return !missing_ && (!value_ || value_->is_null()); }
  bool isObject() const { return value_ && value_->is_object(); }
  bool isString() const { return value_ && value_->is_string(); }

  /// The member `key`. Where it is missing that is a fault once it is read, which says what it may
  /// hold.
  JsonReader member(std::string_view key) const;
  /// The members of a list; a fault when it is none.
  std::vector<JsonReader> members() const;

  // Values of this reader's node; after a fault each returns a neutral value.
  /// range: said where there is none; a number outside it is for validate() to refuse.
  double number(const Range& range = kAnyNumber) const;
  int64_t integer(int64_t low, int64_t high) const;
  bool boolean() const;
  std::string text() const;
  /// The position of the node's text in `names`.
  size_t choice(const std::vector<std::string_view>& names) const;

  void refuse(std::string what, std::string accepted) const;
  const std::string& pointer() const { return pointer_; }

 private:
  JsonReader(const Json* value, std::string pointer, std::optional<Error>& fault)
      : value_(value), pointer_(std::move(pointer)), fault_(fault) {}

  /// True when there is no value; a missing member is refused with what it may be.
  bool absent(const std::string& accepted) const;

  const Json* value_;
  bool missing_ = false;
  std::string pointer_;
  std::optional<Error>& fault_;
};

}  // namespace acre

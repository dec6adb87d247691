#include "recipe/json_reader.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace acre {
namespace {

std::string escaped(std::string_view key) {
  std::string out;
  for (const char c : key) {
    if (c == '~')
      out += "~0";
    else if (c == '/')
      out += "~1";
    else
      out += c;
  }
  return out;
}

/// Walks the events of the parser and refuses what the plain parser lets pass silently.
class StrictSax : public nlohmann::json_sax<Json> {
 public:
  std::optional<Error> fault;

  bool null() override { return value(); }
  bool boolean(bool) override { return value(); }
  bool number_integer(number_integer_t) override { return value(); }
  bool number_unsigned(number_unsigned_t) override { return value(); }
  bool number_float(number_float_t v, const string_t& raw) override {
    if (raw.find_first_of(".eE") == std::string::npos)
      return refuse(fmt::format("the whole number {:.40} does not fit", raw),
          "-2^63 to 2^64-1 (a seed may be text)");
    if (!std::isfinite(v))
      return refuse(fmt::format("the number {:.40} is too large", raw), "a finite number");
    return value();
  }
  bool string(string_t&) override { return value(); }
  bool binary(binary_t&) override { return value(); }
  bool start_object(size_t) override { return open(true); }
  bool start_array(size_t) override { return open(false); }
  bool end_object() override { return close(); }
  bool end_array() override { return close(); }
  bool key(string_t& name) override {
    Level& level = levels_.back();
    level.key = name;
    if (level.keys.insert(name).second) return true;
    return refuse("this key stands here twice", "each key once");
  }
  bool parse_error(size_t, const std::string&, const nlohmann::detail::exception& e) override {
    if (fault) return false;
    if (e.id == 406) return refuse("the number is too large for any computer", "a finite number");
    std::string what = e.what();  // "[json.exception.parse_error.101] parse error at line 3, …"
    if (const size_t at = what.find("] "); at != std::string::npos) what = what.substr(at + 2);
    std::replace_if(
        what.begin(), what.end(), [](unsigned char c) { return c < 32; }, ' ');
    fault = Error{Error::Code::InvalidInput, what.substr(0, 300), "", "UTF-8 JSON"};
    return false;
  }

 private:
  struct Level {
    bool object;
    std::string key;
    size_t index;
    std::set<std::string> keys;
  };

  bool value() {
    if (!levels_.empty()) ++levels_.back().index;
    return true;
  }
  bool open(bool object) {
    if (levels_.size() >= 64) return refuse("nested too deeply", "at most 64 levels");
    levels_.push_back({object, {}, 0, {}});
    return true;
  }
  bool close() {
    levels_.pop_back();
    return value();
  }
  bool refuse(std::string what, std::string accepted) {
    std::string pointer;
    for (const Level& level : levels_)
      pointer += "/" + (level.object ? escaped(level.key) : std::to_string(level.index));
    fault = Error{Error::Code::InvalidInput, std::move(what), pointer, std::move(accepted)};
    return false;
  }

  std::vector<Level> levels_;
};

}  // namespace

Result<Json> parseJson(std::string_view text) {
  if (const size_t zero = text.find('\0'); zero != std::string_view::npos) {
    const std::string_view before = text.substr(0, zero);
    return Error{Error::Code::InvalidInput, "a byte 0, where no text goes on",
        fmt::format("line {}, column {}", std::count(before.begin(), before.end(), '\n') + 1,
            zero - (before.rfind('\n') + 1) + 1),
        "UTF-8 JSON"};
  }
  StrictSax sax;
  if (!Json::sax_parse(text, &sax)) return *sax.fault;
  return Json::parse(text);
}

void JsonReader::refuse(std::string what, std::string accepted) const {
  if (fault_) return;
  fault_ = Error{Error::Code::InvalidInput, std::move(what), pointer_.empty() ? "/" : pointer_,
      std::move(accepted)};
}

void JsonReader::expectObject(const std::vector<std::string_view>& keys) const {
  std::string known;
  for (const std::string_view key : keys) known += (known.empty() ? "" : ", ") + std::string(key);
  if (absent("an object with " + known)) return;
  if (!value_->is_object()) {
    refuse(
        fmt::format("{} where an object belongs", value_->type_name()), "an object with " + known);
    return;
  }
  for (const auto& [key, unused] : value_->items()) {
    if (std::find(keys.begin(), keys.end(), key) != keys.end()) continue;
    JsonReader(nullptr, pointer_ + "/" + escaped(key).substr(0, 80), fault_)
        .refuse("unknown key", known);
  }
}

void JsonReader::expectObject(const std::vector<std::string_view>& keys, bool sound) const {
  std::optional<Error> inside;
  if (sound) std::swap(inside, fault_);
  expectObject(keys);
  if (!fault_) std::swap(inside, fault_);
}

bool JsonReader::has(std::string_view key) const {
  return value_ && value_->is_object() && value_->contains(key);
}

JsonReader JsonReader::member(std::string_view key) const {
  const std::string pointer = pointer_ + "/" + escaped(key);
  if (has(key)) return {&value_->at(std::string(key)), pointer, fault_};
  JsonReader none{nullptr, pointer, fault_};
  none.missing_ = value_ != nullptr;  // Refused once it is known what it should have been.
  return none;
}

bool JsonReader::absent(const std::string& accepted) const {
  if (value_) return false;
  if (missing_ && !fault_) {
    const size_t slash = pointer_.rfind('/');
    const std::string whole = slash == 0 ? "/" : pointer_.substr(0, slash);
    fault_ = Error{Error::Code::InvalidInput,
        fmt::format("\"{}\" is missing", pointer_.substr(slash + 1)), whole, accepted};
  }
  return true;
}

namespace {

std::string listed(const std::vector<std::string_view>& names) {
  std::string known;
  for (const std::string_view name : names)
    known += (known.empty() ? "\"" : ", \"") + std::string(name) + "\"";
  return known;
}

}  // namespace

std::vector<JsonReader> JsonReader::members() const {
  std::vector<JsonReader> list;
  if (absent("a list")) return list;
  if (!value_->is_array()) {
    refuse(fmt::format("{} where a list belongs", value_->type_name()), "a list");
    return list;
  }
  list.reserve(value_->size());
  for (size_t i = 0; i < value_->size(); ++i)
    list.push_back({&(*value_)[i], pointer_ + "/" + std::to_string(i), fault_});
  return list;
}

double JsonReader::number(const Range& range) const {
  if (value_ && value_->is_number()) return value_->get<double>();
  const std::string accepted =
      range.high < kAnyNumber.high ? "a number from " + range.text() : std::string("a number");
  if (!absent(accepted))
    refuse(fmt::format("{} where a number belongs", value_->type_name()), accepted);
  return 0;
}

int64_t JsonReader::integer(int64_t low, int64_t high) const {
  const std::string accepted = fmt::format("a whole number from {} to {}", low, high);
  if (absent(accepted)) return low;
  if (!value_->is_number()) {
    refuse(fmt::format("{} where a number belongs", value_->type_name()), accepted);
    return low;
  }
  if (value_->is_number_float()) {
    const double v = value_->get<double>();
    // Whole numbers may be written as 4.0 or 1e3, as long as they are exact in double.
    if (std::floor(v) == v && v >= -0x1p53 && v <= 0x1p53 && v >= static_cast<double>(low) &&
        v <= static_cast<double>(high))
      return static_cast<int64_t>(v);
    return refuse(fmt::format("{} is no whole number in range", v), accepted), low;
  }
  const bool tooLarge =
      value_->is_number_unsigned() && value_->get<uint64_t>() > static_cast<uint64_t>(INT64_MAX);
  const int64_t v = tooLarge ? INT64_MAX : value_->get<int64_t>();
  if (tooLarge || v < low || v > high)
    return refuse(fmt::format("{} is out of range", value_->dump()), accepted), low;
  return v;
}

bool JsonReader::boolean() const {
  if (absent("true or false")) return false;
  if (value_->is_boolean()) return value_->get<bool>();
  refuse(fmt::format("{} where true or false belongs", value_->type_name()), "true or false");
  return false;
}

std::string JsonReader::text() const {
  if (absent("text")) return {};
  if (value_->is_string()) return value_->get<std::string>();
  refuse(fmt::format("{} where text belongs", value_->type_name()), "text");
  return {};
}

size_t JsonReader::choice(const std::vector<std::string_view>& names) const {
  if (absent(listed(names))) return 0;
  const std::string given = value_->is_string() ? value_->get<std::string>() : value_->dump();
  const auto found = std::find(names.begin(), names.end(), given);
  if (found != names.end() && value_->is_string())
    return static_cast<size_t>(found - names.begin());
  refuse(fmt::format("\"{:.80}\" is not known here", given), listed(names));
  return 0;
}

}  // namespace acre

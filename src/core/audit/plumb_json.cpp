// The card of a cell as JSON.
#include <nlohmann/json.hpp>

#include "audit/explain.h"

namespace acre {

std::string plumbJson(const Plumb& plumb) {
  using Json = nlohmann::ordered_json;
  struct Tree : PlumbSink {
    std::vector<std::pair<std::string, Json>> open_{{"", Json::object()}};
    void put(std::string_view name, Json value) {
      Json& into = open_.back().second;
      if (into.is_array())
        into.push_back(std::move(value));
      else
        into[std::string(name)] = std::move(value);
    }
    void value(std::string_view name, Value value) override {
      put(name, std::visit([](auto&& v) { return Json(std::move(v)); }, std::move(value)));
    }
    void open(std::string_view name, bool list) override {
      open_.emplace_back(name, list ? Json::array() : Json::object());
    }
    void close() override {
      auto [name, made] = std::move(open_.back());
      open_.pop_back();
      put(name, std::move(made));
    }
  } tree;
  explain(plumb, tree);
  return tree.open_.front().second.dump(2) + "\n";
}

}  // namespace acre

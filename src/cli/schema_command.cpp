#include "base/atomic_file.h"
#include "cli/common.h"
#include "output/recipe_pages.h"

namespace acre::cli {
namespace {

struct SchemaOptions {
  std::string out;
  std::string tables;
};

/// Makes the tables of a page anew, where it stands.
Result<int> renewTables(const std::string& file, Streams& streams) {
  constexpr uint64_t kLargestPage = 4u << 20;
  const auto page = readWholeFile(file, kLargestPage);
  if (!page) return page.error();
  auto renewed = withTables(*page);
  if (!renewed) {
    Error error = renewed.error();
    error.where = file + ", " + error.where;
    return error;
  }
  if (*renewed == *page) {
    streams.out << file << " is as it should be\n";
    return 0;
  }
  if (const Status written = writeFile(file, *renewed); !written) return written.error();
  streams.out << "Wrote " << file << "\n";
  return 0;
}

}  // namespace

void addSchema(CLI::App& app, Action& action) {
  const auto options = std::make_shared<SchemaOptions>();
  app.add_option("--out", options->out, "Write the schema to a file instead of the screen");
  app.add_option(
      "--tables", options->tables, "Instead make the tables of a page anew, between its marks");
  app.callback([options, &action] {
    action = [options](Streams& streams) -> Result<int> {
      if (!options->tables.empty()) return renewTables(options->tables, streams);
      const std::string schema = recipeSchema();
      if (options->out.empty()) {
        streams.out << schema;
        return 0;
      }
      if (const Status written = writeFile(options->out, schema); !written) return written.error();
      streams.out << "Wrote " << options->out << "\n";
      return 0;
    };
  });
}

}  // namespace acre::cli

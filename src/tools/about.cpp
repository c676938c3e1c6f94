#include <csv.h>
#include <fmt/format.h>

#include <memory>
#include <string>
#include <thread>

#include "lattice/tensor/threads.hpp"
#include "lattice/version.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

constexpr const char* compiler =
#if defined(__clang__)
    "Clang " __clang_version__;
#else
    "GCC " __VERSION__;
#endif

/// The widest vector instructions that this build may use.
constexpr const char* instruction_set =
#if defined(__AVX512F__)
    "AVX-512";
#elif defined(__AVX2__)
    "AVX2";
#elif defined(__AVX__)
        "AVX";
#elif defined(__SSE2__)
        "SSE2";
#elif defined(__ARM_NEON)
        "NEON";
#else
        "no vector instructions";
#endif

constexpr const char* build =
#if defined(LATTICE_WATCHES_MEMORY)
    "watched for memory faults";
#elif defined(NDEBUG)
    "optimised";
#else
    "for debugging";
#endif

Json facts() {
  const int fmt_major = FMT_VERSION / 10000;
  const int fmt_minor = FMT_VERSION / 100 % 100;
  return {
      {"version", version},
      {"compiler", compiler},
      {"build", build},
      {"instruction_set", instruction_set},
      {"threads",
       {{"of_the_machine", std::thread::hardware_concurrency()}, {"at_most", Threads::allowed()}}},
      {"precision", {{"default", "double"}, {"also", "single"}}},
      {"libraries",
       {{"fmt", fmt::format("{}.{}", fmt_major, fmt_minor)},
        {"CLI11", parser_version()},
        {"nlohmann-json", fmt::format("{}.{}.{}", NLOHMANN_JSON_VERSION_MAJOR,
                                      NLOHMANN_JSON_VERSION_MINOR, NLOHMANN_JSON_VERSION_PATCH)},
        {"libcsv", fmt::format("{}.{}.{}", CSV_MAJOR, CSV_MINOR, CSV_RELEASE)}}}};
}

void declare_about(Verb& verb, Console& console) {
  auto json = std::make_shared<bool>(false);
  verb.flag("--json", *json, "Print one JSON document and nothing else");
  verb.runs([json, &console] {
    const Json about = facts();
    if (*json) {
      write(console.out, about);
      return;
    }
    const auto row = [&](const char* label, const std::string& text) {
      console.out << fmt::format("{:<16} {}\n", label, text);
    };
    row("Open Lattice", version);
    row("compiler", compiler);
    row("build", build);
    row("instruction set", instruction_set);
    row("threads", fmt::format("{}, {} on this machine",
                               Threads::allowed() == 1
                                   ? "1"
                                   : fmt::format("up to {} for large products", Threads::allowed()),
                               std::thread::hardware_concurrency()));
    row("precision", "double, or single with --precision single");
    std::string libraries;
    for (const auto& [name, number] : about["libraries"].items()) {
      libraries +=
          fmt::format("{}{} {}", libraries.empty() ? "" : ", ", name, number.get<std::string>());
    }
    row("libraries", libraries);
  });
}

}  // namespace

Verb about_verb(Console& console) {
  return {"about", "Versions and machine", console, declare_about};
}

}  // namespace lattice::tools

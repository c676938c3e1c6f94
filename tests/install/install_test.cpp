#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <string>

#include "support/process.hpp"

// What `cmake --install` leaves, used by a program of somebody else.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

constexpr const char* program = LATTICE_SOURCE "/tests/install/program";

/// Runs a command, and shows what it said where it fails.
Answer run(const std::string& command, const std::vector<std::string>& arguments) {
  Answer answer = run_program("/usr/bin/env", [&] {
    std::vector<std::string> words = {command};
    words.insert(words.end(), arguments.begin(), arguments.end());
    return words;
  }());
  EXPECT_EQ(answer.status, 0) << command << "\n" << answer.out << answer.err;
  return answer;
}

/// An installed tree, which was moved after it had been installed.
const std::filesystem::path& installed() {
  static const Folder folder;
  static const std::filesystem::path moved = [] {
    const std::string first = folder.path() / "first";
    run("cmake", {"--install", LATTICE_BUILD, "--prefix", first});
    std::filesystem::path to = folder.path() / "moved";
    std::filesystem::rename(first, to);
    return to;
  }();
  return moved;
}

/// Configures and builds the program; where it is then.
std::string build(const Folder& folder, std::vector<std::string> options) {
  options.insert(options.begin(), {"-S", program, "-B", folder.path(), "-G", "Ninja"});
  run("cmake", options);
  run("cmake", {"--build", folder.path()});
  return folder.path() / "pots";
}

const char* const said = "version 0.1.0, pots\nloss 0.";

#if defined(LATTICE_WATCHES_MEMORY)
#define FOR_A_PLAIN_LIBRARY GTEST_SKIP() << "this library is a watched one"
#else
#define FOR_A_PLAIN_LIBRARY static_cast<void>(0)
#endif

TEST(installed, holds_headers_libraries_the_command_and_what_a_teacher_starts_from) {
  for (const char* path :
       {"include/lattice/lattice.hpp", "include/lattice/version.hpp",
        "include/lattice/tensor/detail/storage.hpp", "bin/lattice",
        "share/open-lattice/lessons/glazes.toml", "share/open-lattice/data/glazes.csv",
        "share/open-lattice/schemas/model.schema.json", "share/open-lattice/remarks/README.md"})
    EXPECT_TRUE(std::filesystem::exists(installed() / path)) << path;
  const Answer answer =
      run_program(installed() / "bin/lattice",
                  {"plan", installed() / "share/open-lattice/lessons/glazes.toml"});
  EXPECT_THAT(answer.out, HasSubstr("dense"));
}

TEST(installed, is_found_by_cmake) {
  FOR_A_PLAIN_LIBRARY;
  const Folder folder;
  const std::string pots =
      build(folder, {"-DCMAKE_PREFIX_PATH=" + installed().string(), "-DCMAKE_BUILD_TYPE=Debug"});
  const Answer answer = run(pots, {});
  EXPECT_THAT(answer.out, AllOf(HasSubstr(said), HasSubstr("page written")));
  const Answer other =
      run_program("/usr/bin/env", {"cmake", "-S", program, "-B", folder.path() / "other",
                                   "-DOpenLattice_DIR=/nowhere", "-DCMAKE_PREFIX_PATH=/nowhere"});
  EXPECT_NE(other.status, 0);
}

// The library has no sanitizer in it, and the program has.
TEST(installed, is_linked_by_a_program_that_is_watched) {
  FOR_A_PLAIN_LIBRARY;
  const Folder folder;
  const std::string pots =
      build(folder, {"-DCMAKE_PREFIX_PATH=" + installed().string(), "-DCMAKE_BUILD_TYPE=Debug",
                     "-DCMAKE_CXX_FLAGS=-fsanitize=address,undefined "
                     "-fno-sanitize-recover=all"});
  EXPECT_THAT(run(pots, {}).out, HasSubstr(said));
}

TEST(installed, is_found_by_pkg_config) {
  FOR_A_PLAIN_LIBRARY;
  const Folder folder;
  const std::string pots = folder.path() / "pots";
  std::string packages;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(installed())) {
    if (entry.path().extension() == ".pc") packages = entry.path().parent_path();
  }
  run("sh", {"-c", "PKG_CONFIG_PATH=" + packages + " && export PKG_CONFIG_PATH && g++ " + program +
                       "/pots.cpp -o " + pots + " $(pkg-config --cflags --libs lattice-core)"});
  EXPECT_THAT(run(pots, {}).out, HasSubstr(said));
}

// The minimal tensor engine: neither pictures nor graphs, no files, no command. The library is the
// one that was built with them beside it, as nothing of them is in it.
TEST(installed, can_be_the_core_alone) {
  FOR_A_PLAIN_LIBRARY;
  const Folder folder;
  const std::filesystem::path core = folder.path() / "core";
  const std::filesystem::path prefix = folder.path() / "prefix";
  run("cmake", {"-S", LATTICE_SOURCE, "-B", core, "-G", "Ninja", "-DLATTICE_SUBJECTS=OFF",
                "-DLATTICE_TESTS=OFF"});
  std::filesystem::copy_file(LATTICE_BUILD "/src/liblattice_core.a",
                             core / "src/liblattice_core.a");
  run("cmake", {"--install", core, "--prefix", prefix});
  EXPECT_TRUE(std::filesystem::exists(prefix / "include/lattice/core.hpp"));
  for (const char* path : {"include/lattice/lattice.hpp", "include/lattice/pictures",
                           "include/lattice/graphs", "include/lattice/show", "bin/lattice"})
    EXPECT_FALSE(std::filesystem::exists(prefix / path)) << path;
  const std::string pots = build(folder, {"-DCMAKE_PREFIX_PATH=" + prefix.string()});
  EXPECT_THAT(run(pots, {}).out, HasSubstr(said));
}

}  // namespace
}  // namespace lattice::testing

#include "files/loaded_library.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/text/error.hpp"
#include "support/command.hpp"

namespace lattice {
namespace {

using testing::Answer;
using testing::Folder;
using ::testing::HasSubstr;
using ::testing::Not;
using testing::shell;

TEST(loaded_library, finds_a_function) {
  const LoadedLibrary library("libm.so.6", "this test");
  double (*const floor)(double) = library.find("floor");
  EXPECT_EQ(floor(2.5), 2.0);
}

TEST(loaded_library, says_what_is_missing) {
  try {
    const LoadedLibrary library("libpottery.so.3", "a kiln");
    FAIL();
  } catch (const ProgramError& error) {
    EXPECT_THAT(error.what(), HasSubstr("a library that a kiln needs cannot be loaded"));
    EXPECT_THAT(error.what(), HasSubstr("expected: libpottery.so.3"));
  }
  const LoadedLibrary library("libm.so.6", "this test");
  EXPECT_THROW(static_cast<void>(library.find("fire")), ProgramError);
}

// What these bring along takes longer to load than all the rest.
TEST(loaded_library, is_not_loaded_when_the_command_starts) {
  const Answer loaded = shell("LD_TRACE_LOADED_OBJECTS=1 $lattice");
  EXPECT_THAT(loaded.out, HasSubstr("libfmt"));
  for (const char* library : {"libmicrohttpd", "libgnutls", "libxlsxwriter", "libcrypto"})
    EXPECT_THAT(loaded.out, Not(HasSubstr(library)));
}

TEST(loaded_library, is_refused_where_it_is_broken_and_nothing_is_left) {
  const Folder folder;
  const std::string in_folder = "cd " + folder.path().string() + " && LD_LIBRARY_PATH=. ";
  for (const char* name : {"libxlsxwriter.so.4", "libmicrohttpd.so.12"})
    static_cast<void>(folder.file(name, "no library"));
  const Answer book = shell(in_folder + "$lattice work kiln --xlsx book.xlsx");
  EXPECT_EQ(book.status, 2);
  EXPECT_THAT(book.err, HasSubstr("a library that a spreadsheet needs cannot be loaded"));
  EXPECT_FALSE(exists(folder.path() / "book.xlsx"));
  const Answer page = shell(in_folder + "$lattice train kiln --epochs 1 --serve --port 0");
  EXPECT_EQ(page.status, 2);
  EXPECT_THAT(page.err, HasSubstr("a library that the watch page needs cannot be loaded"));
  EXPECT_EQ(shell(in_folder + "$lattice train kiln --epochs 1").status, 0);
}

}  // namespace
}  // namespace lattice

#include "files/file.hpp"

#include <fcntl.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <list>
#include <thread>

#include "files/unfinished.hpp"
#include "lattice/text/error.hpp"
#include "support/process.hpp"
#include "support/said.hpp"

namespace lattice::testing {
namespace {

namespace fs = std::filesystem;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

/// What is said when a file cannot be written; empty when it can.
std::string refusal(const fs::path& path) {
  try {
    check_place_for_file(path);
    return "";
  } catch (const FileError& error) {
    // What is found out beforehand is what happens.
    EXPECT_THROW(write_file(path, "new"), FileError) << path;
    return error.what();
  }
}

std::vector<std::string> names_in(const fs::path& folder) {
  std::vector<std::string> names;
  for (const fs::directory_entry& each : fs::directory_iterator(folder))
    names.push_back(each.path().filename());
  return names;
}

mode_t mode_of(const fs::path& path) {
  struct stat there {};
  return stat(path.c_str(), &there) == 0 ? there.st_mode & 07777U : 0;
}

TEST(writing, replaces_a_file_and_keeps_its_mode) {
  const Folder folder;
  const fs::path path = folder.file("a", "old");
  chmod(path.c_str(), 0640);
  write_file(path, "new");
  EXPECT_EQ(content_of(path), "new");
  EXPECT_EQ(mode_of(path), 0640U);
  EXPECT_THAT(names_in(folder.path()), ElementsAre("a"));
}

TEST(writing, follows_a_link_to_where_it_leads) {
  const Folder folder;
  const fs::path real = folder.file("real", "old");
  const fs::path link = folder.path() / "link";
  fs::create_symlink("real", link);
  write_file(link, "new");
  EXPECT_TRUE(fs::is_symlink(link));
  EXPECT_EQ(content_of(real), "new");

  const fs::path to_nothing = folder.path() / "to nothing";
  fs::create_symlink("later", to_nothing);
  write_file(to_nothing, "made");
  EXPECT_TRUE(fs::is_symlink(to_nothing));
  EXPECT_EQ(content_of(folder.path() / "later"), "made");
}

TEST(writing, keeps_all_names_of_a_file) {
  const Folder folder;
  const fs::path path = folder.file("a", "old, and longer than the new one");
  fs::create_hard_link(path, folder.path() / "b");
  write_file(path, "new");
  EXPECT_EQ(content_of(path), "new");
  EXPECT_EQ(content_of(folder.path() / "b"), "new");
  EXPECT_EQ(fs::hard_link_count(path), 2U);
  EXPECT_EQ(names_in(folder.path()).size(), 2U);
}

TEST(writing, goes_through_devices_and_pipes_and_leaves_them_what_they_are) {
  const Folder folder;
  write_file("/dev/null", "gone");
  EXPECT_TRUE(fs::is_character_file("/dev/null"));
  EXPECT_THROW(write_file("/dev/full", "too much"), FileError);

  const fs::path pipe = folder.path() / "pipe";
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  // Nobody reads: nothing is waited for.
  EXPECT_THROW(write_file(pipe, "unheard"), FileError);
  const std::string much(1'000'000, 'x');
  std::string heard;
  const int reads = open(pipe.c_str(), O_RDONLY | O_NONBLOCK);
  std::thread reader([&] {
    fcntl(reads, F_SETFL, 0);
    std::array<char, 4096> piece{};
    for (ssize_t count = 1; heard.size() < much.size() && count >= 0;) {
      count = read(reads, piece.data(), piece.size());
      if (count > 0) heard.append(piece.data(), static_cast<std::size_t>(count));
    }
  });
  write_file(pipe, much);
  reader.join();
  close(reads);
  EXPECT_EQ(heard, much);
  EXPECT_TRUE(fs::is_fifo(pipe));
}

TEST(writing, is_refused_beforehand_where_it_cannot_be) {
  const Folder folder;
  const fs::path file = folder.file("file", "old");
  EXPECT_EQ(refusal(folder.path() / "a"), "");
  EXPECT_THAT(refusal(""), HasSubstr("no name"));
  EXPECT_THAT(refusal(folder.path()), HasSubstr("a folder"));
  EXPECT_THAT(refusal(folder.path() / ""), HasSubstr("a folder"));
  EXPECT_THAT(refusal(folder.path() / "no" / "a"), HasSubstr("mkdir -p"));
  EXPECT_THAT(refusal(file / "a"), HasSubstr("is not a folder"));
  EXPECT_THAT(refusal(folder.path() / std::string(256, 'a')), HasSubstr("at most 255 bytes"));
  std::string far;
  for (int at = 0; at < 40; ++at)
    far += std::string(100, 'a') + "/";
  EXPECT_THAT(refusal(folder.path() / far / "a"), HasSubstr("cannot write"));
  fs::create_symlink("round", folder.path() / "round");
  EXPECT_THAT(refusal(folder.path() / "round"), HasSubstr("cannot write"));
  EXPECT_EQ(content_of(file), "old");
}

TEST(writing, takes_names_as_long_as_there_are) {
  const Folder folder;
  for (const std::size_t length : {200U, 245U, 250U, 255U}) {
    const fs::path path = folder.path() / std::string(length, 'a');
    write_file(path, "whole");
    EXPECT_EQ(content_of(path), "whole");
  }
  EXPECT_EQ(names_in(folder.path()).size(), 4U);
}

TEST(leftovers, are_taken_away_when_nobody_is_at_them) {
  const Folder folder;
  const fs::path path = folder.path() / "model.lattice";
  const std::string left = folder.file("model.lattice.unfinished-4711-0.part", "half");
  const std::string in_use = folder.file("model.lattice.unfinished-4712-0.part", "half");
  const std::vector<std::string> others = {
      folder.file("other.lattice.unfinished-4711-0.part", "half"),
      folder.file("model.lattice.part", "whole"),
      folder.file("model.lattice.unfinished-a-0.part", "whole"),
      folder.file("model.lattice.unfinished-4711.part", "whole"),
      folder.file("model.lattice.unfinished--1.part", "whole"),
      folder.file("model.lattice.unfinished-4711-0", "whole"),
      // What somebody calls a copy of the month.
      folder.file("model.lattice.2024-11.part", "whole")};
  const int held = open(in_use.c_str(), O_RDONLY);
  ASSERT_EQ(flock(held, LOCK_EX), 0);
  EXPECT_THAT(take_leftovers_away(path), ElementsAre(left));
  EXPECT_FALSE(fs::exists(left));
  for (const std::string& other : others)
    EXPECT_TRUE(fs::exists(other)) << other;
  EXPECT_TRUE(fs::exists(in_use));
  close(held);
  EXPECT_THAT(take_leftovers_away(path), ElementsAre(in_use));
  EXPECT_THAT(take_leftovers_away(folder.path() / "no" / "such"), IsEmpty());
}

// What a handler of signals does, with what is half done at that moment.
TEST(unfinished, files_and_folders_are_taken_away_and_finished_ones_stay) {
  const Folder folder;
  const fs::path made = folder.path() / "made";
  fs::create_directory(made);
  const Unfinished in_folder(made.string());
  const Unfinished half(folder.file("made/half", "ha"));
  Unfinished whole(folder.file("whole", "whole"));
  whole.finish();
  take_unfinished_away();
  EXPECT_THAT(names_in(folder.path()), ElementsAre("whole"));
}

TEST(unfinished, files_are_gone_with_who_made_them) {
  const Folder folder;
  {
    const Unfinished half(folder.file("half", "ha"));
    EXPECT_TRUE(fs::exists(half.path()));
  }
  EXPECT_THAT(names_in(folder.path()), IsEmpty());
  // More of them at once than a signal would know of.
  {
    std::list<Unfinished> many;
    for (int at = 0; at < 40; ++at)
      many.emplace_back(folder.file(std::to_string(at), "half"));
    take_unfinished_away();
  }
  EXPECT_THAT(names_in(folder.path()), IsEmpty());
}

TEST(reading, waits_for_who_writes_a_pipe_and_not_for_nobody) {
  const Folder folder;
  const fs::path pipe = folder.path() / "pipe";
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  EXPECT_THAT(testing::said<FileError>([&] { return read_file(pipe, "a table"); }),
              HasSubstr("a pipe without a writer"));
  // Somebody who comes late, and takes time.
  std::thread writer([&] {
    std::this_thread::sleep_for(std::chrono::milliseconds(300));
    std::ofstream file(pipe);
    file << "a,b\n" << std::flush;
    std::this_thread::sleep_for(std::chrono::milliseconds(300));
    file << "1,2\n";
  });
  EXPECT_EQ(read_file(pipe, "a table"), "a,b\n1,2\n");
  writer.join();
}

TEST(reading, refuses_what_is_no_file_or_more_than_could_be_worked_with) {
  const Folder folder;
  const auto said = [](const fs::path& path) -> std::string {
    return testing::said<FileError>([&] { return read_file(path, "a table"); });
  };
  EXPECT_THAT(said("/dev/zero"), HasSubstr("a device"));
  EXPECT_THAT(said(folder.path()), HasSubstr("a folder"));
  EXPECT_THAT(said(folder.path() / "no"), HasSubstr("No such file"));
  // A file by its kind, to which the system writes as long as it runs; or one that is not for us.
  EXPECT_THAT(said("/proc/kmsg"), ::testing::AnyOf(HasSubstr("never ends"), HasSubstr("permitted"),
                                                   HasSubstr("denied"), HasSubstr("No such file")));
  // A file with a hole in it takes no room on the disk.
  const fs::path huge = folder.file("huge", "");
  fs::resize_file(huge, std::uintmax_t{1} << 42U);
  EXPECT_THAT(said(huge), HasSubstr("would not fit into memory"));
}

TEST(files, that_are_the_same_are_known_by_any_name) {
  const Folder folder;
  const fs::path a = folder.file("a", "x");
  fs::create_symlink("a", folder.path() / "link");
  fs::create_hard_link(a, folder.path() / "b");
  EXPECT_TRUE(is_same_file(a, folder.path() / "." / "a"));
  EXPECT_TRUE(is_same_file(a, folder.path() / "link"));
  EXPECT_TRUE(is_same_file(a, folder.path() / "b"));
  EXPECT_TRUE(is_same_file(folder.path() / "new", folder.path() / "." / "new"));
  EXPECT_FALSE(is_same_file(a, folder.path() / "new"));
  EXPECT_FALSE(is_same_file(a, folder.file("c", "x")));
}

}  // namespace
}  // namespace lattice::testing

#pragma once

#include <gtest/gtest.h>
#include <sys/types.h>

#include <string>
#include <vector>

namespace lattice::testing {

/// The command in a terminal of its own, used as by somebody who sits at it.
class Terminal {
 public:
  explicit Terminal(const std::vector<std::string>& arguments, unsigned short columns = 100);
  Terminal(const Terminal&) = delete;
  Terminal& operator=(const Terminal&) = delete;
  ~Terminal();

  /// Types a line and presses Enter.
  void type(const std::string& line);

  /// Presses Ctrl with a letter.
  void press_control(char letter);

  /// Changes the size of the window.
  void resize(unsigned short columns, unsigned short rows);

  /// What appears on the screen until a text does; until the end, or for some seconds, when it does
  /// not.
  std::string read_until(const std::string& text);

  /// Waits for the command to end. Its status, or −1 for a signal.
  int wait();

 private:
  int screen_ = -1;
  pid_t command_ = -1;
};

/// Tests that need a terminal; where none can be opened they are skipped.
class AtTerminal : public ::testing::Test {
 protected:
  void SetUp() override;
};

}  // namespace lattice::testing

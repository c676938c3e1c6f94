#include "support/process.hpp"

#include <fcntl.h>
#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <fstream>
#include <iterator>

namespace lattice::testing {

Answer run_program(const std::string& program, const std::vector<std::string>& arguments) {
  const Folder folder;
  const std::string out = folder.path() / "out";
  const std::string err = folder.path() / "err";
  std::vector<char*> words{const_cast<char*>(program.c_str())};
  for (const std::string& argument : arguments)
    words.push_back(const_cast<char*>(argument.c_str()));
  words.push_back(nullptr);
  const pid_t child = fork();
  if (child == 0) {
    // What runs in the background ignores these, and hands that down.
    std::signal(SIGINT, SIG_DFL);
    std::signal(SIGHUP, SIG_DFL);
    const int to_out = open(out.c_str(), O_CREAT | O_WRONLY, 0600);
    const int to_err = open(err.c_str(), O_CREAT | O_WRONLY, 0600);
    dup2(to_out, STDOUT_FILENO);
    dup2(to_err, STDERR_FILENO);
    execv(program.c_str(), words.data());
    _exit(127);
  }
  int status = 0;
  waitpid(child, &status, 0);
  return {.status = WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status),
          .out = content_of(out),
          .err = content_of(err)};
}

Folder::Folder() {
  std::string name =
      (std::filesystem::temp_directory_path() / "lattice-test-").string() + std::string(6, 'X');
  if (mkdtemp(name.data()) == nullptr) ADD_FAILURE() << "no folder for the test";
  path_ = name;
}

Folder::~Folder() {
  std::filesystem::remove_all(path_);
}

std::string Folder::file(const std::string& name, const std::string& content) const {
  const std::filesystem::path path = path_ / name;
  std::ofstream(path, std::ios::binary) << content;
  return path;
}

std::string content_of(const std::filesystem::path& path) {
  std::ifstream file(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(file), {}};
}

}  // namespace lattice::testing

#include "support/program.hpp"

#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>

#include "support/temporary_folder.hpp"

namespace undershelf::test {

Ran run_in(const std::string& folder, const std::vector<std::string>& command) {
    const TemporaryFolder outputs;
    const auto out = outputs.at("out"), err = outputs.at("err");
    const auto child = ::fork();
    if (child == 0) {
        const auto redirect = [](const char* path, int flags, int to) {
            ::dup2(::open(path, flags, 0600), to);
        };
        redirect("/dev/null", O_RDONLY, 0);
        redirect(out.c_str(), O_WRONLY | O_CREAT, 1);
        redirect(err.c_str(), O_WRONLY | O_CREAT, 2);
        if (::chdir(folder.c_str()) != 0) ::_exit(126);
        std::vector<char*> arguments;
        for (const auto& a : command) arguments.push_back(const_cast<char*>(a.c_str()));
        arguments.push_back(nullptr);
        ::execvp(arguments[0], arguments.data());
        ::_exit(127);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    Ran ran;
    ran.status = WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
    ran.out = read_file(out);
    ran.err = read_file(err);
    return ran;
}

}  // namespace undershelf::test

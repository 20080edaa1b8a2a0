#include "shelf/holder.hpp"

#include <SQLiteCpp/SQLiteCpp.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sqlite3.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <filesystem>

#include "shelf/database.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

using ::testing::HasSubstr;
using ::testing::Not;

namespace {

/// A process that locks a file, and stops in place.
class StoppedHolder {
  public:
    explicit StoppedHolder(const std::string& path) : process_(::fork()) {
        if (process_ == 0) {
            const int fd = ::open(path.c_str(), O_RDWR);
            if (::flock(fd, LOCK_EX) == 0) ::raise(SIGSTOP);
            ::_exit(0);
        }
        ::waitpid(process_, nullptr, WUNTRACED);
    }
    ~StoppedHolder() {
        ::kill(process_, SIGKILL);
        ::waitpid(process_, nullptr, 0);
    }
    std::string number() const { return std::to_string(process_); }

  private:
    pid_t process_;
};

}  // namespace

TEST(Holder, IsNamedWithWhatLetsItGoOn) {
    const test::TemporaryFolder folder;
    const auto shelf = folder.write("card.shelf", std::string("x"));
    EXPECT_EQ(holder_of(shelf), "");
    const StoppedHolder holder(shelf);
    EXPECT_THAT(holder_of(shelf), HasSubstr("kill -CONT " + holder.number()));
    const SQLite::Exception busy("database is locked", SQLITE_BUSY);
    EXPECT_THAT(shelf_error(shelf, busy).what(), HasSubstr("Process " + holder.number()));
}

TEST(Holder, ThatGoesOnIsNamedAlone) {
    const test::TemporaryFolder folder;
    const auto shelf = folder.write("card.shelf", std::string("x"));
    struct stat s {};
    ASSERT_EQ(::stat(shelf.c_str(), &s), 0);
    std::filesystem::create_directories(folder.path() / "proc/4711");
    folder.write("proc/4711/cmdline", std::string("undershelf\0scan\0card.img\0", 25));
    folder.write("proc/4711/stat", std::string("4711 (a) T (b) S 1 2"));
    folder.write("proc/locks",
                 fmt::format("nonsense\n1: -> FLOCK ADVISORY WRITE 4712 {0}\n2: POSIX ADVISORY WRITE "
                             "4711 {0} 1073741824 1073742335\n",
                             fmt::format("{:02x}:{:02x}:{}", major(s.st_dev), minor(s.st_dev), s.st_ino)));
    EXPECT_EQ(holder_of(shelf, folder.at("proc")), "Process 4711 (undershelf scan card.img) has it.");
}

}  // namespace undershelf

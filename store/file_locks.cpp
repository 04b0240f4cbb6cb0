#include "store/file_locks.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sqlite3.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <compare>
#include <cstdarg>
#include <map>
#include <mutex>
#include <optional>

namespace jacinth {
namespace {

struct FileId {
    dev_t device;
    ino_t number;
    auto operator<=>(const FileId&) const = default;
};

std::optional<FileId> idOf(const char* path) {
    struct stat info {};
    if (::stat(path, &info) != 0) return {};
    return FileId{info.st_dev, info.st_ino};
}

/// A descriptor that SQLite has open.
struct OpenDescriptor {
    FileId file;
    std::string path;
};

/// A file that SQLite has open, by one or several descriptors.
struct OpenFile {
    int descriptors = 0;
    int lockDescriptor = -1;  ///< carries the locks of all of them; opened with the first lock
    bool withoutOwn = false;  ///< no such descriptor or no such locks here: SQLite's own are used
};

struct OpenFiles {
    std::mutex mutex;
    std::map<int, OpenDescriptor> descriptors;
    std::map<FileId, OpenFile> files;
};

/// Never destroyed: SQLite may close files while the program ends.
OpenFiles& openFiles() {
    static auto* all = new OpenFiles;
    return *all;
}

int openAndRemember(const char* path, int flags, int mode) {
    const int descriptor = ::open(path, flags, mode);
    struct stat info {};
    if (descriptor < 0 || ::fstat(descriptor, &info) != 0) return descriptor;
    OpenFiles& all = openFiles();
    const std::lock_guard lock(all.mutex);
    const FileId file{info.st_dev, info.st_ino};
    all.descriptors[descriptor] = {file, path};
    ++all.files[file].descriptors;
    return descriptor;
}

int closeAndForget(int descriptor) {
    OpenFiles& all = openFiles();
    const std::lock_guard lock(all.mutex);
    if (const auto known = all.descriptors.find(descriptor); known != all.descriptors.end()) {
        const auto file = all.files.find(known->second.file);
        all.descriptors.erase(known);
        if (file != all.files.end() && --file->second.descriptors == 0) {
            if (file->second.lockDescriptor >= 0) ::close(file->second.lockDescriptor);
            all.files.erase(file);
        }
    }
    return ::close(descriptor);
}

/// The descriptor on which locks of this one are placed; -1 where it is its own.
int lockDescriptorOf(int descriptor) {
    OpenFiles& all = openFiles();
    const std::lock_guard lock(all.mutex);
    const auto known = all.descriptors.find(descriptor);
    if (known == all.descriptors.end()) return -1;
    OpenFile& file = all.files[known->second.file];
    if (file.withoutOwn) return -1;
    if (file.lockDescriptor < 0) {
        const std::string again = fmt::format("/proc/self/fd/{}", descriptor);
        // A lock for writing needs a descriptor for writing, whichever of SQLite's asks first.
        file.lockDescriptor = ::open(again.c_str(), O_RDWR | O_CLOEXEC);
        if (file.lockDescriptor < 0) file.lockDescriptor = ::open(again.c_str(), O_RDONLY | O_CLOEXEC);
        file.withoutOwn = file.lockDescriptor < 0;
    }
    return file.lockDescriptor;
}

void goWithoutOwn(int descriptor) {
    OpenFiles& all = openFiles();
    const std::lock_guard lock(all.mutex);
    if (const auto known = all.descriptors.find(descriptor); known != all.descriptors.end())
        all.files[known->second.file].withoutOwn = true;
}

int lockOpenFile(int descriptor, int command, struct flock* lock) {
    const int own = lockDescriptorOf(descriptor);
    if (own < 0) return ::fcntl(descriptor, command, lock);
    struct flock asked = *lock;
    asked.l_pid = 0;  // as these locks ask for
    const int ofOpenFile = command == F_GETLK ? F_OFD_GETLK : command == F_SETLK ? F_OFD_SETLK : F_OFD_SETLKW;
    const int result = ::fcntl(own, ofOpenFile, &asked);
    if (result != 0 && errno == EINVAL) {
        goWithoutOwn(descriptor);
        return ::fcntl(descriptor, command, lock);
    }
    if (result == 0 && command == F_GETLK) *lock = asked;
    return result;
}

int controlFile(int descriptor, int command, ...) {
    va_list arguments;
    va_start(arguments, command);
    int result = 0;
    if (command == F_GETLK || command == F_SETLK || command == F_SETLKW)
        result = lockOpenFile(descriptor, command, va_arg(arguments, struct flock*));
    else
        result = ::fcntl(descriptor, command, va_arg(arguments, long));
    va_end(arguments);
    return result;
}

template <typename Function>
sqlite3_syscall_ptr asSystemCall(Function* function) {
    return reinterpret_cast<sqlite3_syscall_ptr>(function);
}

}  // namespace

void useLocksOfOpenFiles() {
    static std::once_flag once;
    std::call_once(once, [] {
        sqlite3_initialize();
        sqlite3_vfs* files = sqlite3_vfs_find("unix");
        if (!files || files->iVersion < 3 || !files->xSetSystemCall) return;
        files->xSetSystemCall(files, "open", asSystemCall(openAndRemember));
        files->xSetSystemCall(files, "close", asSystemCall(closeAndForget));
        files->xSetSystemCall(files, "fcntl", asSystemCall(controlFile));
    });
}

bool isOpenInThisProcess(const std::string& path) {
    const auto file = idOf(path.c_str());
    OpenFiles& all = openFiles();
    const std::lock_guard lock(all.mutex);
    return file && all.files.contains(*file);
}

bool isReplacedOnDisk(const std::string& path) {
    const auto now = idOf(path.c_str());
    OpenFiles& all = openFiles();
    const std::lock_guard lock(all.mutex);
    bool isOpen = false;
    for (const auto& [descriptor, open] : all.descriptors) {
        if (open.path != path) continue;
        if (now && *now == open.file) return false;
        isOpen = true;
    }
    return isOpen;
}

}  // namespace jacinth

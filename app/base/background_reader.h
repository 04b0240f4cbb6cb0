// Reads the record for what is drawn, on a thread and a connection of its own, so that drawing never waits
// for the disk.
#pragma once

#include <QObject>
#include <QPointer>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>

#include "store/study.h"

namespace jacinth::app {

/// What is said where the path of the open study leads to another file now.
inline constexpr const char* kAnotherFile =
    "another program has replaced, moved or removed the file of this study: it is not read again";

class BackgroundReader : public QObject {
    Q_OBJECT
  public:
    /// Reads the study at this path, as long as it is the file of this identity (see Study::fileIdentity).
    BackgroundReader(std::string path, std::string identity, QObject* parent = nullptr);
    ~BackgroundReader() override;

    /// What is done on the interface thread with what was read. Not called once `client` is gone.
    using Deliver = std::function<void()>;
    using Work = std::function<Deliver(Study&)>;
    /// Asks for a reading. A newer one of the same client and name takes the place of one not begun: only the
    /// latest view is worth reading. Readings are taken in the order of asking, those for `later` last.
    /// Returns the number of the reading, for deliverWithin.
    std::uint64_t ask(QObject* client, const char* name, Work work, bool later = false);
    /// Waits until a reading is done, for `limit` at most, and delivers it at once: what is read within a
    /// moment need not be drawn without first. False where it takes longer; it is delivered later then.
    bool deliverWithin(std::uint64_t number, std::chrono::microseconds limit);
    /// How much memory samples may take from the next reading of a study on.
    void setCacheSize(std::size_t bytes) { cacheBytes_ = bytes; }
    bool idle() const;  ///< nothing waits, runs, or is on its way to the interface thread

  signals:
    void failed(const QString& message);

  private:
    struct Request {
        QPointer<QObject> client;
        const QObject* key;
        std::string name;
        Work work;
        bool later;
        std::uint64_t number;
    };
    struct Done {
        QPointer<QObject> client;
        Deliver deliver;
        QString trouble;
        std::uint64_t number;
    };
    void run();
    void serve(Request& request, std::unique_ptr<Study>& study);
    void deliverOldest();
    void deliver(Done& done);

    std::string path_, identity_;
    std::atomic<std::size_t> cacheBytes_{64 << 20};
    mutable std::mutex mutex_;
    std::condition_variable wake_, ready_;
    std::deque<Request> waiting_;
    std::deque<Done> done_;  ///< not delivered yet
    std::uint64_t asked_ = 0;
    int underWay_ = 0;  ///< from being taken up to being delivered
    bool ending_ = false;
    std::thread thread_;
};

}  // namespace jacinth::app

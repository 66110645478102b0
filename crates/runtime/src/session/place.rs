//! The place of sessions on this machine: a private folder with a socket for each, named after it, and a lock for each show
//! file that runs.

use std::fs::{self, File, OpenOptions};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::io::{self, Read, Seek, Write};
use std::os::unix::fs::{DirBuilderExt, MetadataExt, OpenOptionsExt, PermissionsExt};
use std::os::unix::net::{UnixListener, UnixStream};
use std::path::{Path, PathBuf};

use nix::fcntl::{Flock, FlockArg};
use nix::unistd::Uid;

/// The longest path of a socket, in bytes (unix(7): 108 with the zero at its end).
const LONGEST_PATH: usize = 107;
/// Tries to lock a file that others take away.
const TRIES: u32 = 5;
/// Sessions of one name at the most.
const MOST_ALIKE: u32 = 1000;

/// The reason why there is no place for a session.
#[derive(Debug, thiserror::Error)]
pub enum Refusal {
    /// The show runs already.
    #[error("{show} runs already, as the session {session}: `splimo attach {session}` shows it", show = show.display())]
    Runs {
        /// The show's file.
        show: PathBuf,
        /// The session.
        session: String,
    },
    /// The show runs already on another machine that shares its folder, or under another user.
    #[error("{show} runs already on {host}, as the session {session}; end it there, or open a copy", show = show.display())]
    RunsElsewhere {
        /// The show's file.
        show: PathBuf,
        /// The machine.
        host: String,
        /// The session.
        session: String,
    },
    /// The folder for sockets cannot be used.
    #[error("{folder} cannot be used for sessions: {why}; set XDG_RUNTIME_DIR to a folder of your own", folder = folder.display())]
    Folder {
        /// The folder.
        folder: PathBuf,
        /// The reason why not.
        why: String,
    },
}

/// The folder of this user's sessions: `$XDG_RUNTIME_DIR/splimo`, or a private one among the temporary files.
///
/// # Errors
/// [`Refusal::Folder`] where it cannot be made, or is somebody else's.
pub fn folder() -> Result<PathBuf, Refusal> {
    let runtime = std::env::var_os("XDG_RUNTIME_DIR").map(PathBuf::from).filter(|path| path.is_absolute());
    let folder = match runtime {
        Some(runtime) => runtime.join("splimo"),
        None => std::env::temp_dir().join(format!("splimo-{}", Uid::effective())),
    };
    let refused = |why: String| Refusal::Folder { folder: folder.clone(), why };
    match fs::DirBuilder::new().mode(0o700).create(&folder) {
        Err(error) if error.kind() != io::ErrorKind::AlreadyExists => return Err(refused(error.to_string())),
        _ => {}
    }
    // A link, or a folder that somebody else has made in advance, is not ours to use.
    let found = fs::symlink_metadata(&folder).map_err(|error| refused(error.to_string()))?;
    if !found.is_dir() || found.uid() != Uid::effective().as_raw() {
        return Err(refused("it is not a folder of yours".to_owned()));
    }
    if found.permissions().mode() & 0o077 != 0 {
        fs::set_permissions(&folder, fs::Permissions::from_mode(0o700)).map_err(|error| refused(error.to_string()))?;
    }
    Ok(folder)
}

/// The names of the sessions whose sockets are there, whether or not somebody listens.
///
/// # Errors
/// As [`folder`].
pub fn names() -> Result<Vec<String>, Refusal> {
    let entries = fs::read_dir(folder()?).into_iter().flatten().flatten();
    let name = |entry: fs::DirEntry| {
        let path = entry.path();
        let socket = path.extension().is_some_and(|ending| ending == "sock");
        socket.then(|| path.file_stem().map(|stem| stem.to_string_lossy().into_owned())).flatten()
    };
    let mut names: Vec<String> = entries.filter_map(name).collect();
    names.sort();
    Ok(names)
}

/// The socket of a session.
///
/// # Errors
/// As [`folder`].
pub fn socket_of(name: &str) -> Result<PathBuf, Refusal> {
    Ok(folder()?.join(format!("{name}.sock")))
}

/// The place of a session: its name, and its socket. Dropping it takes the socket away.
pub struct SessionPlace {
    name: String,
    path: PathBuf,
    listener: UnixListener,
}

impl SessionPlace {
    /// Takes the first free place of a name: `name`, else `name-2`, and so on.
    pub(super) fn take(wanted: &str) -> Result<Self, Refusal> {
        let folder = folder()?;
        let refused = |why: String| Refusal::Folder { folder: folder.clone(), why };
        // Two sessions that begin at the same time do so one after the other.
        let _turn = lock_file(&folder.join("names.lock")).map_err(|error| refused(error.to_string()))?;
        for number in 1..MOST_ALIKE {
            let name = if number == 1 { wanted.to_owned() } else { format!("{wanted}-{number}") };
            let path = folder.join(format!("{name}.sock"));
            if path.as_os_str().len() > LONGEST_PATH {
                return Err(refused("its name is too long for a socket".to_owned()));
            }
            if UnixStream::connect(&path).is_ok() {
                continue;
            }
            // What is left of a session that ended badly is in the way of nobody.
            let _ = fs::remove_file(&path);
            let listener = UnixListener::bind(&path).map_err(|error| refused(error.to_string()))?;
            let private = fs::set_permissions(&path, fs::Permissions::from_mode(0o600));
            private.map_err(|error| refused(error.to_string()))?;
            return Ok(Self { name, path, listener });
        }
        Err(refused("there are too many sessions of this name".to_owned()))
    }

    /// The name of the session.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.name
    }

    pub(super) fn listener(&self) -> io::Result<UnixListener> {
        self.listener.try_clone()
    }
}

impl Drop for SessionPlace {
    fn drop(&mut self) {
        let _ = fs::remove_file(&self.path);
    }
}

/// The lock of a show file that runs. Dropping it lets others run the show.
pub struct Lock {
    here: Flock<File>,
    /// The lock beside the show, which other machines see that share its folder; none where the folder takes none.
    beside: Option<(PathBuf, Flock<File>)>,
}

impl Lock {
    /// Writes down which session holds it.
    pub(super) fn write(&self, session: &str) {
        let system = rustix::system::uname();
        let host = system.nodename().to_string_lossy();
        let beside = self.beside.iter().map(|(_, file)| (&**file, format!("{host}\n{session}\n")));
        for (mut file, words) in std::iter::once((&*self.here, session.to_owned())).chain(beside) {
            let written = file.set_len(0).and_then(|()| file.rewind()).and_then(|()| file.write_all(words.as_bytes()));
            if let Err(error) = written {
                tracing::warn!(%error, "the lock of the show does not tell whose it is");
            }
        }
    }
}

impl Drop for Lock {
    fn drop(&mut self) {
        // It is ours as long as it is locked: nobody else loses theirs.
        if let Some((path, _)) = &self.beside {
            let _ = fs::remove_file(path);
        }
    }
}

/// The lock beside a show, or that nobody can have one there.
///
/// # Errors
/// [`Refusal::RunsElsewhere`] where another machine holds it.
fn lock_beside(show: &Path) -> Result<Option<(PathBuf, Flock<File>)>, Refusal> {
    let real = fs::canonicalize(show).unwrap_or_else(|_| show.to_owned());
    let name = format!(".{}.lock", real.file_name().unwrap_or_default().to_string_lossy());
    let path = real.with_file_name(name);
    // One who leaves takes the file away: what was locked then is not what the next one finds.
    let there = |lock: &Flock<File>| {
        let inode = |file: io::Result<fs::Metadata>| file.map(|file| file.ino()).ok();
        inode(fs::metadata(&path)) == inode(lock.metadata())
    };
    let locked = (0..TRIES).map(|_| lock_now(&path)).find(|lock| lock.as_ref().map_or(true, there));
    match locked.unwrap_or_else(|| Err(io::ErrorKind::NotFound.into())) {
        Ok(lock) => Ok(Some((path, lock))),
        Err(error) if error.kind() == io::ErrorKind::WouldBlock => {
            let mut told = String::new();
            let _ = File::open(&path).map(|file| file.take(400).read_to_string(&mut told));
            let mut lines = told.lines().map(|line| splimo_wire::shown(line.trim()));
            let mut next = || lines.next().filter(|line| !line.is_empty()).unwrap_or_else(|| "unknown".to_owned());
            Err(Refusal::RunsElsewhere { show: show.to_owned(), host: next(), session: next() })
        }
        // A folder that takes no file, or knows no locks, is no reason not to play.
        Err(error) => {
            tracing::info!(%error, path = %path.display(), "no lock beside the show");
            Ok(None)
        }
    }
}

/// Locks a show file for a session. The file itself is not touched: saving puts another one in its place.
///
/// # Errors
/// [`Refusal::Runs`] and [`Refusal::RunsElsewhere`] where a session holds it, and [`Refusal::Folder`].
pub(super) fn lock(show: &Path) -> Result<Lock, Refusal> {
    let folder = folder()?;
    let path = folder.join(format!("{:016x}.lock", hash_of(show)));
    match lock_now(&path) {
        Ok(here) => Ok(Lock { here, beside: lock_beside(show)? }),
        Err(error) if error.kind() == io::ErrorKind::WouldBlock => {
            let session = holder_of(show).unwrap_or_default();
            Err(Refusal::Runs { show: show.to_owned(), session })
        }
        Err(error) => Err(Refusal::Folder { folder, why: error.to_string() }),
    }
}

/// The session that runs a show file, if one does.
#[must_use]
pub fn holder_of(show: &Path) -> Option<String> {
    let path = folder().ok()?.join(format!("{:016x}.lock", hash_of(show)));
    if lock_now(&path).is_ok() {
        return None;
    }
    let mut name = String::new();
    File::open(&path).ok()?.take(200).read_to_string(&mut name).ok()?;
    Some(name.trim().to_owned()).filter(|name| !name.is_empty())
}

/// A number that is the same for the same file, by whatever path it is called.
fn hash_of(show: &Path) -> u64 {
    let whole = |path: &Path| fs::canonicalize(path).ok();
    // A file that is not there yet is known by its folder and its name.
    let parent = show.parent().filter(|parent| !parent.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let fresh = || Some(whole(parent)?.join(show.file_name()?));
    let path = whole(show).or_else(fresh).unwrap_or_else(|| show.to_owned());
    let mut hasher = DefaultHasher::new();
    path.hash(&mut hasher);
    hasher.finish()
}

fn open_lock(path: &Path) -> io::Result<File> {
    OpenOptions::new().read(true).write(true).create(true).truncate(false).mode(0o600).open(path)
}

fn lock_now(path: &Path) -> io::Result<Flock<File>> {
    Flock::lock(open_lock(path)?, FlockArg::LockExclusiveNonblock).map_err(|(_, error)| error.into())
}

fn lock_file(path: &Path) -> io::Result<Flock<File>> {
    Flock::lock(open_lock(path)?, FlockArg::LockExclusive).map_err(|(_, error)| error.into())
}

//! The socket at which a session listens for guests.

use std::io;
use std::os::unix::net::{UnixListener, UnixStream};
use std::thread::Builder;

use nix::sys::socket::{getsockopt, sockopt::PeerCredentials};
use nix::unistd::Uid;

use super::place::SessionPlace;

/// Listens at a session's socket, and hands over each guest of this user. Others are sent away without a word.
pub(super) fn listen(place: &SessionPlace, enter: impl Fn(UnixStream) + Send + 'static) -> io::Result<()> {
    let listener: UnixListener = place.listener()?;
    Builder::new().name("door".into()).spawn(move || {
        for stream in listener.incoming() {
            match stream {
                Ok(stream) if is_ours(&stream) => enter(stream),
                Ok(_) => tracing::warn!("somebody of another user knocked"),
                Err(error) => {
                    tracing::warn!(%error, "a guest could not come in");
                    std::thread::sleep(std::time::Duration::from_millis(50));
                }
            }
        }
    })?;
    Ok(())
}

/// True if the other side of a socket is a process of this user, or of root.
fn is_ours(stream: &UnixStream) -> bool {
    getsockopt(stream, PeerCredentials).is_ok_and(|peer| peer.uid() == Uid::effective().as_raw() || peer.uid() == 0)
}

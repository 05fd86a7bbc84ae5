"""A cluster while programs use it: whoever leaves last stops it; one that died is started again."""

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from stonechat.cluster.folder import Say
from stonechat.cluster.server import Cluster, _silent
from stonechat.errors import Clash


@contextmanager
def running_cluster(folder: Path, *, durable: bool = True, say: Say = _silent, alone: bool = False) -> Iterator[str]:
    """Run the cluster of a folder and give its address; whoever leaves last stops it.

    Where one must be `alone` it is a conflict that another program uses the folder, and others wait meanwhile.

    Every user holds a shared lock, so a cluster left running by a killed program is taken over and stopped, and one
    that another program still uses is left alone.
    """
    cluster = Cluster(folder, durable=durable, say=say)
    cluster.folder.prepare()
    with cluster.folder.locked("users", fcntl.LOCK_SH) as users:
        with cluster.folder.locked("start", fcntl.LOCK_EX):
            is_alone = _alone(users.fileno())
            if alone and not is_alone:
                raise Clash(f"A program runs on the data in {folder}. Stop it, then start again; nothing was changed.")
            if is_alone and cluster.serving():
                say("The database was left running by a program that was killed; it is taken over.")
            if not alone:
                fcntl.flock(users, fcntl.LOCK_SH)
            cluster.start()
        try:
            yield cluster.url
        finally:
            with cluster.folder.locked("start", fcntl.LOCK_EX):
                if _alone(users.fileno()):
                    cluster.stop()


def revive(folder: Path, *, durable: bool = True, say: Say = _silent) -> bool:
    """Start a cluster that is in use and has died; tell whether that was so."""
    cluster = Cluster(folder, durable=durable, say=say)
    if cluster.serving():
        return False
    with cluster.folder.locked("start", fcntl.LOCK_EX):
        if cluster.serving():
            return False
        cluster.start()
    return True


def stop_if_unused(folder: Path) -> None:
    """Stop the cluster of a folder where no program uses it any more."""
    cluster = Cluster(folder)
    with cluster.folder.locked("start", fcntl.LOCK_EX), cluster.folder.locked("users", fcntl.LOCK_SH) as users:
        if _alone(users.fileno()) and cluster.serving():
            cluster.stop()


def _alone(users: int) -> bool:
    """Turn the shared lock on the users into one's own, and tell whether that was possible.

    A lock that cannot be turned is lost (flock(2)), so this is asked with the start lock held, behind which nobody
    stops the cluster, and the shared lock is taken again by whoever stays.
    """
    try:
        fcntl.flock(users, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True

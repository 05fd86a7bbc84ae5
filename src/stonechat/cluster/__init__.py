"""The private database cluster: made once in a data folder of our own, run on a socket that only its owner reaches."""

from stonechat.cluster.folder import DataFolder, default_data_dir
from stonechat.cluster.running import revive, running_cluster, stop_if_unused
from stonechat.cluster.server import Cluster

__all__ = ["Cluster", "DataFolder", "default_data_dir", "revive", "running_cluster", "stop_if_unused"]

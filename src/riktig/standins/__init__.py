"""Stand-ins for instruments, behind the interfaces that real ones would implement."""

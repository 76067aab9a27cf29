"""One small function for each rule: Plan -> findings. Rules judge; they never mend."""

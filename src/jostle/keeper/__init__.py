"""The keeper: it holds groups as their arrangements say, on whatever provider they run."""

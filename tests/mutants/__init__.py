"""What the tests would not notice: `./run mutants` changes one place of the code at a time and runs the tests that pass it."""

package org.hollin.desk.infra;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/** The wardens who take turns at the desk, a line each in a file. */
public class RosterStore {

    private final Path file;

    public RosterStore(Path file) {
        this.file = file;
    }

    public List<String> wardens() {
        try {
            return Files.readAllLines(file);
        } catch (IOException problem) {
            throw new IllegalStateException("roster is missing", problem);
        }
    }
}

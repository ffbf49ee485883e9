package org.hollin.desk.infra;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/** The roads of each valley, from a file that the road office keeps. */
public class RoadBook {

    private final Path file;

    public RoadBook(Path file) {
        this.file = file;
    }

    public List<String> roadsOf(String valley) {
        try {
            return Files.readAllLines(file).stream().filter(line -> line.startsWith(valley + " ")).toList();
        } catch (IOException problem) {
            throw new IllegalStateException("road book is missing", problem);
        }
    }
}

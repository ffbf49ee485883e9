package org.hollin.desk.app;

import java.io.FileWriter;
import java.io.IOException;
import java.io.PrintWriter;

/** Keeps what went wrong in the night for the day shift. */
public class TroubleLog {

    public void note(String valley, String message) {
        try (PrintWriter out = new PrintWriter(new FileWriter("trouble.log", true))) {
            out.println(System.currentTimeMillis() + " " + valley + " " + message);
        } catch (IOException problem) {
            throw new IllegalStateException(problem);
        }
    }
}

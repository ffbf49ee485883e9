package org.hollin.desk.infra;

import java.io.IOException;
import java.io.OutputStream;
import java.net.Socket;
import java.nio.charset.StandardCharsets;

/** Talks to the sirens in the valleys. */
public class SirenRelay {

    private final String host;
    private final int port;

    public SirenRelay(String host, int port) {
        this.host = host;
        this.port = port;
    }

    /**
     * Sounds the sirens of a valley.
     *
     * @param valley code of the valley
     * @param degree degree of danger, 1 to 5
     */
    public void sound(String valley, int degree) {
        try (Socket socket = new Socket(host, port); OutputStream out = socket.getOutputStream()) {
            out.write((valley + ":" + degree + "\n").getBytes(StandardCharsets.UTF_8));
        } catch (IOException problem) {
            throw new IllegalStateException("siren of " + valley + " is silent", problem);
        }
    }
}

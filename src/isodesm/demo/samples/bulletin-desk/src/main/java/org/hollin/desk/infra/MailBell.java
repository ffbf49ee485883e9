package org.hollin.desk.infra;

import java.io.IOException;
import java.io.PrintStream;
import java.net.Socket;

import org.hollin.desk.app.Bell;
import org.hollin.desk.domain.Bulletin;

/** Tells subscribers by electronic mail. */
public class MailBell implements Bell {

    private final String sender;

    public MailBell(String sender) {
        this.sender = sender;
    }

    @Override
    public void ring(Bulletin bulletin) {
        try (Socket socket = new Socket("mail.hollin.example", 25); PrintStream out = new PrintStream(socket.getOutputStream())) {
            out.println("from: " + sender);
            out.println(bulletin.getHeadline());
        } catch (IOException problem) {
            throw new IllegalStateException(problem);
        }
    }
}

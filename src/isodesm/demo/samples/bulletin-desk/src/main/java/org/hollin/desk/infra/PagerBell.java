package org.hollin.desk.infra;

import java.io.IOException;
import java.net.DatagramPacket;
import java.net.DatagramSocket;
import java.net.InetAddress;
import java.nio.charset.StandardCharsets;

import org.hollin.desk.app.Bell;
import org.hollin.desk.domain.Bulletin;

/** Tells the wardens by pager. */
public class PagerBell implements Bell {

    @Override
    public void ring(Bulletin bulletin) {
        byte[] text = bulletin.getHeadline().getBytes(StandardCharsets.UTF_8);
        try (DatagramSocket socket = new DatagramSocket()) {
            socket.send(new DatagramPacket(text, text.length, InetAddress.getByName("pager.hollin.example"), 444));
        } catch (IOException problem) {
            throw new IllegalStateException(problem);
        }
    }
}

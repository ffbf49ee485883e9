using System;
using System.Net.Sockets;
using Hollin.Hub.Application;
using Hollin.Hub.Domain;

namespace Hollin.Hub.Host
{
    public static class Program
    {
        public static int Main(string[] arguments)
        {
            if (arguments.Length > 0)
            {
                HubSettings.RadioHost = arguments[0];
            }
            Registry registry = new HubHost().Build();
            var report = registry.Get<IReportWriter>();
            try
            {
                int kept = arguments.Length > 1
                    ? new FunctionHost(registry).Fire(arguments[1])
                    : registry.Get<CollectionRound>().Run();
                report.Write(kept + " readings kept");
                report.Write(registry.Get<StationReport>().LineFor("Hart"));
            }
            catch (SocketException)
            {
                report.Write("the radio net is silent");
            }
            catch (HubException problem)
            {
                report.Write(problem.Message);
            }
            report.Write(registry.Get<Calibration>().Apply("Hart", 82, 80) + " offset of Hart");
            return 0;
        }
    }
}

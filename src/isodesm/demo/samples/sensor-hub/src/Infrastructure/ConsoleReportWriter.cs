using System;
using Hollin.Hub.Application;

namespace Hollin.Hub.Infrastructure
{
    public class ConsoleReportWriter : IReportWriter
    {
        public void Write(string line)
        {
            Console.WriteLine(line);
        }
    }
}
